/** Metres in one of each unit that lengths are typed in. */
const METRES: Readonly<Record<string, number>> = {
  mm: 0.001,
  cm: 0.01,
  m: 1,
  km: 1000,
  in: 0.0254,
  '"': 0.0254,
  '″': 0.0254,
  ft: 0.3048,
  "'": 0.3048,
  '′': 0.3048,
};
const PART = /(-?\d+(?:[.,]\d+)?)\s*(mm|cm|km|m|in|ft|["″'′])?/gy;

/** Metres of a length as it is typed: "2.4", "2.4 m", "240 cm", 7'10". Undefined: it is none. */
export function readLength(text: string): number | undefined {
  const words = text.trim().toLowerCase();
  let [sum, parts] = [0, 0];
  PART.lastIndex = 0;
  for (;;) {
    while (words[PART.lastIndex] === ' ') PART.lastIndex++;
    if (PART.lastIndex >= words.length) break;
    const from = PART.lastIndex;
    const [, number, unit] = PART.exec(words) ?? [];
    // Several parts, as feet and inches, each name their unit.
    if (number === undefined || (parts > 0 && unit === undefined) || PART.lastIndex === from) return undefined;
    sum += Number(number.replace(',', '.')) * METRES[unit ?? 'm']!;
    parts++;
    if (unit === undefined && PART.lastIndex < words.length) return undefined;
  }
  return parts > 0 ? sum : undefined;
}
