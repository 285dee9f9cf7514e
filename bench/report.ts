/** One figure of a bench. */
export interface Figure {
  name: string;
  value: number;
  unit: string;
  /** What it is compared with, and the least or most that is asked. */
  comparedWith?: string;
}

const json = process.argv.includes('--json');

export function report(figure: Figure): void {
  const value = Number(figure.value.toPrecision(4));
  if (json) console.log(JSON.stringify({ ...figure, value }));
  else console.log(`${figure.name.padEnd(44)} ${String(value).padStart(10)} ${figure.unit.padEnd(8)} ${figure.comparedWith ?? ''}`);
}

export function option(name: string, fallback: number): number {
  const at = process.argv.indexOf(`--${name}`);
  return at < 0 ? fallback : Number(process.argv[at + 1]);
}

export function textOption(name: string, fallback: string): string {
  const at = process.argv.indexOf(`--${name}`);
  return at < 0 ? fallback : (process.argv[at + 1] ?? fallback);
}

export function percentile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.ceil(sorted.length * share) - 1)]!;
}

export const median = (values: readonly number[]) => percentile(values, 0.5);
