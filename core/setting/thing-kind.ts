import type { SourceMaterial } from '../model/schema';

/** Things of the library that are set about a building: planting and entourage. */

export const GROUPS = ['trees', 'shrubs', 'herbs', 'rocks', 'people', 'vehicles', 'street', 'furniture', 'surround'] as const;
export type ThingGroup = (typeof GROUPS)[number];

export interface ThingPart {
  /** Hash of the mesh's blob; metres, z up, its foot at the origin, its front towards -y. */
  mesh: string;
  material: string;
  /** States that it is seen in; absent: in all. */
  in?: string[];
}

/** One individual of a kind: another age, posture or make. */
export interface ThingForm {
  id: string;
  name: string;
  heightM: number;
  /** Of its outline seen from above, metres. */
  acrossM: number;
  triangles: number;
  parts: ThingPart[];
}

export interface ThingKind {
  id: string;
  name: string;
  group: ThingGroup;
  tags: string[];
  /** Of leaf or clothing: the first is how it comes. Empty: it has one only. */
  states: string[];
  forms: ThingForm[];
  materials: SourceMaterial[];
}

/** A kind as it is shown first: of trees the grown one. */
export const defaultForm = ({ forms }: ThingKind): ThingForm => forms.find(({ id }) => id === 'grown') ?? forms[0]!;
