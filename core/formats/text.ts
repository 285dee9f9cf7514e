/** Text of a file in the encoding that it gives away: UTF-16 by its mark or its zeros, UTF-8, or else Latin 1 in Windows' form. */
export function textOf(bytes: Uint8Array): string {
  const [a, b, c, d] = bytes;
  if ((a === 0xfe && b === 0xff) || (a === 0 && c === 0 && b !== 0 && d !== 0)) return new TextDecoder('utf-16be').decode(bytes);
  if ((a === 0xff && b === 0xfe) || (b === 0 && d === 0 && a !== 0 && c !== 0)) return new TextDecoder('utf-16le').decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}
