import Papa from 'papaparse';
import * as v from 'valibot';
import type { Model } from '../model/model';
import type { Command } from './command';
import { entry, findFinish, overrideKey, type Entries } from './project';
import type { ScheduleRow } from './schedule';

/** One line of a finish schedule in a file. An element is named by its id, which for IFC is its GlobalId. */
const lineSchema = v.object({
  kind: v.picklist(['source material', 'element']),
  source: v.string(),
  id: v.pipe(v.string(), v.minLength(1)),
  name: v.string(),
  finish: v.string(),
  finishName: v.optional(v.string(), ''),
  areaM2: v.optional(v.union([v.number(), v.string()]), ''),
  elements: v.optional(v.union([v.number(), v.string()]), ''),
  origin: v.optional(v.string(), ''),
  reason: v.optional(v.string(), ''),
  code: v.optional(v.pipe(v.string(), v.maxLength(40)), ''),
  note: v.optional(v.pipe(v.string(), v.maxLength(2000)), ''),
});
export type ScheduleLine = v.InferInput<typeof lineSchema>;

const COLUMNS = ['kind', 'source', 'id', 'name', 'finish', 'finishName', 'areaM2', 'elements', 'origin', 'reason', 'code', 'note'] as const;

/** The schedule of a project, with the finishes that single elements have. */
export function scheduleLines(
  rows: readonly ScheduleRow[],
  sources: readonly { id: string; name: string; model: Model }[],
  entries: Entries,
): ScheduleLine[] {
  const nameOf = new Map(sources.map((s) => [s.id, s.name]));
  const materials = rows.map((row): ScheduleLine => ({
    kind: 'source material', source: nameOf.get(row.source) ?? row.source, id: row.material, name: row.name, finish: row.choice.finish?.id ?? '',
    finishName: row.choice.finish?.name ?? '', areaM2: Number(row.areaM2.toFixed(3)), elements: row.elements, origin: row.choice.origin, reason: row.choice.reason, code: row.code, note: row.note,
  })); // prettier-ignore
  const elements = sources.flatMap(({ id, name, model }) =>
    [...model.elements.values()].flatMap((element): ScheduleLine[] => {
      const override = entry(entries, overrideKey(id, element.id));
      const finish = override && findFinish(entries, override.finish);
      return finish ? [{ kind: 'element', source: name, id: element.id, name: element.name, finish: finish.id, finishName: finish.name, elements: 1, origin: 'by hand' }] : []; // prettier-ignore
    }),
  );
  return [...materials, ...elements];
}

export const scheduleCsv = (lines: readonly ScheduleLine[]): string =>
  Papa.unparse(lines as ScheduleLine[], { columns: [...COLUMNS], newline: '\r\n', escapeFormulae: true });

export const scheduleJson = (lines: readonly ScheduleLine[]): string =>
  `${JSON.stringify({ format: 'diaphane-finish-schedule', version: 1, lines }, null, 1)}\n`;

/** Lines of a schedule that was written here and perhaps edited since, or what is wrong with the file. */
export function readSchedule(fileName: string, text: string): ScheduleLine[] | { fault: string } {
  let raw: unknown[];
  if (/^\s*\{/.test(text)) {
    try {
      raw = (JSON.parse(text) as { lines: unknown[] }).lines;
    } catch {
      return { fault: `${fileName} is broken JSON.` };
    }
    if (!Array.isArray(raw)) return { fault: `${fileName} is JSON, but no finish schedule: it has no lines.` };
  } else {
    // A spreadsheet may have put semicolons in place of commas; the parser finds that out.
    const table = Papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ''), { header: true, skipEmptyLines: 'greedy' });
    const absent = ['kind', 'id', 'finish'].filter((column) => !table.meta.fields?.includes(column));
    if (absent.length > 0) return { fault: `${fileName} is no finish schedule: it has no column ${absent.join(', ')}.` };
    raw = table.data.map((row) =>
      Object.fromEntries(Object.entries(row).map(([key, value]) => [key, value?.replace(/^'(?=[=+\-@\t\r])/, '') ?? ''])),
    );
  }
  const lines: ScheduleLine[] = [];
  for (const [i, item] of raw.entries()) {
    const line = v.safeParse(lineSchema, item);
    if (!line.success)
      return { fault: `Line ${String(i + 1)} of ${fileName}: ${v.getDotPath(line.issues[0]) ?? ''} ${line.issues[0].message}` };
    lines.push(line.output);
  }
  return lines;
}

export interface ScheduleMatch {
  /** One command for everything, or nothing to do. */
  command: Extract<Command, { type: 'assign-many' }> | undefined;
  changed: number;
  /** Lines whose element, source material or finish is not in the project. */
  unmatched: ScheduleLine[];
}

/** What a schedule changes in a project: lines are matched by source and id, then by name in any source. Guessed rows stay guesses. */
export function matchSchedule(
  lines: readonly ScheduleLine[],
  sources: readonly { id: string; name: string; model: Model }[],
  rows: readonly ScheduleRow[],
  entries: Entries,
): ScheduleMatch {
  const rowsOf = (line: ScheduleLine): readonly ScheduleRow[] => {
    const sourceId = sources.find((s) => s.name === line.source)?.id;
    const found = rows.filter((r) => r.source === sourceId && r.material === line.id);
    return found.length > 0 ? found : rows.filter((r) => r.material === line.id || r.name === line.name);
  };
  const assignments: { source: string; material?: string; element?: string; finish: string | null }[] = [];
  const notes: { source: string; material: string; code: string; note: string }[] = [];
  const unmatched: ScheduleLine[] = [];
  for (const line of lines) {
    if (line.kind === 'source material') notes.push(...notesOf(line, rowsOf(line)));
    if (line.finish === '') continue;
    if (!findFinish(entries, line.finish)) {
      unmatched.push(line);
      continue;
    }
    if (line.kind === 'element') {
      const source =
        sources.find((s) => s.name === line.source && s.model.elements.has(line.id)) ?? sources.find((s) => s.model.elements.has(line.id));
      if (!source) unmatched.push(line);
      else if (entry(entries, overrideKey(source.id, line.id))?.finish !== line.finish)
        assignments.push({ source: source.id, element: line.id, finish: line.finish });
      continue;
    }
    const matched = rowsOf(line);
    if (matched.length === 0) unmatched.push(line);
    for (const row of matched)
      if (row.choice.finish?.id !== line.finish) assignments.push({ source: row.source, material: row.material, finish: line.finish });
  }
  return {
    command:
      assignments.length + notes.length > 0
        ? { type: 'assign-many', assignments, ...(notes.length > 0 && { notes }), name: 'Finish schedule' }
        : undefined,
    changed: new Set([...assignments, ...notes].map((a) => JSON.stringify([a.source, a.material, 'element' in a && a.element]))).size,
    unmatched,
  };
}

/** Codes and notes that a line brings; a file without them leaves those that there are. */
function notesOf({ code = '', note = '' }: ScheduleLine, rows: readonly ScheduleRow[]) {
  if (code === '' && note === '') return [];
  return rows
    .filter((row) => row.code !== code || row.note !== note)
    .map((row) => ({ source: row.source, material: row.material, code, note }));
}
