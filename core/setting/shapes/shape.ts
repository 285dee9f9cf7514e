import type { Mesh } from '../../geometry/mesh';
import type { SourceMaterial } from '../../model/schema';

/** What a part of a thing is made of: a name that finishes are recognised by, a colour (sRGB), and how it meets light. */
export type Stuff = Pick<SourceMaterial, 'name' | 'colour'> & Partial<Omit<SourceMaterial, 'id' | 'name' | 'colour' | 'texture'>>;

export interface ShapePart {
  mesh: Mesh;
  stuff: Stuff;
  in?: string[];
}

/** A thing that its own code makes: metres, z up, foot at the origin, front towards -y. */
export interface Shape {
  id: string;
  name: string;
  make: () => ShapePart[];
}

const hex = (colour: string): [number, number, number] => [1, 3, 5].map((i) => parseInt(colour.slice(i, i + 2), 16) / 255) as [number, number, number]; // prettier-ignore

export const stuff = (name: string, colour: string, more: Partial<Stuff> = {}): Stuff => ({
  name,
  colour: hex(colour),
  roughness: 0.7,
  ...more,
});
