import * as v from 'valibot';

/** A word pattern for the names of source materials, and the finish that they get. */
export const ruleSchema = v.strictObject({
  pattern: v.pipe(v.string(), v.trim(), v.minLength(1, 'A rule needs a pattern.'), v.maxLength(200)),
  finish: v.pipe(v.string(), v.minLength(1), v.maxLength(200)),
});
export type Rule = v.InferOutput<typeof ruleSchema>;
export const rulesSchema = v.pipe(v.array(ruleSchema), v.maxLength(500));

const FORMAT = 'diaphane-finish-rules';
const fileSchema = v.object({ format: v.literal(FORMAT), version: v.literal(1), rules: rulesSchema });

/** Without case and accents. */
const plain = (text: string): string => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase();

/** Whether a name holds a pattern anywhere, in any case and with or without accents; * stands for anything. */
export function nameFits(pattern: string, name: string): boolean {
  const text = plain(name.slice(0, 500));
  // Piece after piece, each as early as it can be: no pattern takes long, whatever is in it.
  let at = 0;
  for (const piece of plain(pattern.trim()).split('*')) {
    const found = text.indexOf(piece, at);
    if (found < 0) return false;
    at = found + piece.length;
  }
  return true;
}

/** The first rule that a name fits. */
export const ruleFor = (rules: readonly Rule[], name: string): Rule | undefined => rules.find(({ pattern }) => nameFits(pattern, name));

export const rulesFile = (rules: readonly Rule[]): string => `${JSON.stringify({ format: FORMAT, version: 1, rules }, null, 1)}\n`;

/** Rules of a file that was written here, or what is wrong with it. */
export function readRules(fileName: string, text: string): readonly Rule[] | { fault: string } {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    return { fault: `${fileName} is broken JSON.` };
  }
  const file = v.safeParse(fileSchema, json);
  if (file.success) return file.output.rules;
  return { fault: `${fileName} holds no finish rules: ${v.getDotPath(file.issues[0]) ?? ''} ${file.issues[0].message}` };
}

/** Rules with others put before them; of two with one pattern the newer stays. */
export function withRules(rules: readonly Rule[], added: readonly Rule[]): Rule[] {
  const patterns = new Set(added.map((r) => plain(r.pattern)));
  return [...added, ...rules.filter((r) => !patterns.has(plain(r.pattern)))];
}
