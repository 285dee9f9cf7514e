import type { Command } from './command';
import { entry, type Entries } from './project';
import type { ScheduleRow } from './schedule';

export const SORTINGS = ['area', 'source material', 'finish', 'code', 'elements'] as const;
export const GROUPINGS = ['none', 'finish', 'family', 'source', 'reason'] as const;
export const FILTERS = ['all', 'unassigned', 'guessed', 'by hand'] as const;

/** How a person looks at the schedule. */
export interface ScheduleView {
  words: string;
  show: (typeof FILTERS)[number];
  sort: (typeof SORTINGS)[number];
  group: (typeof GROUPINGS)[number];
}
export const FIRST_VIEW: ScheduleView = { words: '', show: 'all', sort: 'area', group: 'none' };

export interface ScheduleGroup {
  /** Empty without groups. */
  name: string;
  rows: ScheduleRow[];
  areaM2: number;
}

const SHOWN: Readonly<Record<ScheduleView['show'], readonly ScheduleRow['choice']['origin'][]>> = {
  all: ['by hand', 'by rule', 'by name', 'none'],
  unassigned: ['none'],
  guessed: ['by name', 'by rule'],
  'by hand': ['by hand'],
};

/** Rows that are asked for, in their order and groups. Every word must be in the name, the finish, its family, the code or the note. */
export function viewSchedule(
  rows: readonly ScheduleRow[],
  view: ScheduleView,
  nameOfSource: (source: string) => string = (s) => s,
): ScheduleGroup[] {
  const words = view.words.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = rows.filter((row) => {
    const { finish } = row.choice;
    const text = `${row.code} ${row.name.slice(0, 500)} ${finish?.name ?? ''} ${finish?.family ?? ''} ${row.note}`.toLowerCase();
    return SHOWN[view.show].includes(row.choice.origin) && words.every((word) => text.includes(word));
  });
  shown.sort((a, b) => compared(a, b, view.sort) || b.areaM2 - a.areaM2 || (a.key < b.key ? -1 : 1));
  const groups = new Map<string, ScheduleRow[]>();
  for (const row of shown) {
    const name = groupOf(row, view.group, nameOfSource);
    groups.set(name, [...(groups.get(name) ?? []), row]);
  }
  return [...groups].map(([name, of]) => ({ name, rows: of, areaM2: of.reduce((sum, row) => sum + row.areaM2, 0) }));
}

function compared(a: ScheduleRow, b: ScheduleRow, sort: ScheduleView['sort']): number {
  const text = (x: string, y: string) => (x === '' ? 1 : 0) - (y === '' ? 1 : 0) || x.localeCompare(y, 'en', { numeric: true });
  if (sort === 'area') return b.areaM2 - a.areaM2;
  if (sort === 'elements') return b.elements - a.elements;
  if (sort === 'code') return text(a.code, b.code);
  if (sort === 'finish') return text(a.choice.finish?.name ?? '', b.choice.finish?.name ?? '');
  return text(a.name, b.name);
}

function groupOf(row: ScheduleRow, group: ScheduleView['group'], nameOfSource: (source: string) => string): string {
  if (group === 'none') return '';
  if (group === 'source') return nameOfSource(row.source);
  if (group === 'reason')
    return { 'by hand': 'Set by hand', 'by rule': 'By a rule', 'by name': 'By name', none: 'Unassigned' }[row.choice.origin];
  const { finish } = row.choice;
  return (group === 'finish' ? finish?.name : finish?.family) ?? 'Unassigned';
}

/** An area as one reads it: whole square metres from a hundred on, thousands set apart. */
export function areaWords(m2: number): string {
  return m2 >= 100 ? Math.round(m2).toLocaleString('en').replace(/,/g, ' ') : m2.toFixed(1);
}

/** Everything that has one finish gets another: rows, guessed ones too, and single elements. Undefined: nothing has it. */
export function replaceEverywhere(
  rows: readonly ScheduleRow[],
  entries: Entries,
  from: string,
  to: string,
  name: string,
): Extract<Command, { type: 'assign-many' }> | undefined {
  const assignments: { source: string; material?: string; element?: string; finish: string }[] = rows
    .filter((row) => row.choice.finish?.id === from)
    .map((row) => ({ source: row.source, material: row.material, finish: to }));
  for (const key of entries.keys()) {
    const [, source, element] = /^element\/([^/]*)\/(.*)$/s.exec(key) ?? [];
    if (source !== undefined && element !== undefined && entry(entries, `element/${source}/${element}`)?.finish === from)
      assignments.push({ source, element, finish: to });
  }
  return assignments.length > 0 ? { type: 'assign-many', assignments, name } : undefined;
}
