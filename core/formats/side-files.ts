/** The name by which a file calls another: without escapes and backslashes, and never leading outside the file's own folder. */
export function plainName(asked: string): string {
  let name = asked;
  try {
    name = decodeURIComponent(asked);
  } catch {
    // A per cent sign that is just that.
  }
  const kept: string[] = [];
  for (const step of name
    .replaceAll('\\', '/')
    .replace(/^(file:)?(\/*[A-Za-z]:)?\/*/, '')
    .split('/')) {
    if (step === '..') kept.pop();
    else if (step !== '' && step !== '.') kept.push(step);
  }
  return kept.join('/');
}
