import type { Vec3 } from '../geometry/vec3';
import type { Command } from '../project/command';

export const CHECKS = {
  duplicates: 'Duplicates',
  coplanar: 'Faces in one plane',
  'wall-overlaps': 'Overlapping walls',
  'wall-gaps': 'Gaps at wall corners',
  open: 'Open boundaries',
  flipped: 'Flipped faces',
  degenerate: 'Faces without area',
  specks: 'Specks',
  far: 'Far from the rest',
  heavy: 'Unusually heavy',
  annotation: 'Layers that look like drawing',
  'no-material': 'No material',
  'shared-material': 'Shared materials',
  'missing-pictures': 'Missing pictures',
  lying: 'Lying on its side',
  file: 'Files that are not whole',
} as const;
export type Check = keyof typeof CHECKS;

/** `fault` shows in a picture, `warning` may, `note` is good to know. */
export type Severity = 'fault' | 'warning' | 'note';

export interface Finding {
  /** Same for the same things in a later revision, so that what was excused stays so. */
  id: string;
  check: Check;
  severity: Severity;
  words: string;
  elements: { source: string; element: string }[];
  /** Middle of what is wrong, in the project's metres, and how large it is; null: nowhere in the picture. */
  place: Vec3 | null;
  sizeM: number;
  /** One command that mends it. */
  remedy: { label: string; command: Command } | null;
}

export function findingId(check: Check, ...things: readonly string[]): string {
  return [check, ...[...things].sort()].join('|').slice(0, 200);
}
