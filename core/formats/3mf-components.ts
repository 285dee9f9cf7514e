import { ModelFileError } from './model-file';

/** Objects that a model may come to when each component stands for what it names, and triangles with them. */
const [MOST_OBJECTS, MOST_TRIANGLES] = [100_000, 50_000_000];
const MOST_NESTED = 64;

interface Size {
  objects: number;
  triangles: number;
}

/**
 * Refuses a 3MF whose components name each other so that they come to more than any model (3MF Core Specification 1.3, 4.2): ten
 * names ten times over are ten thousand million. `xml` has no prefixes.
 */
export function checkComponents(xml: string, fileName: string): void {
  const objects = new Map<string, { triangles: number; components: string[] }>();
  for (const [, head = '', body = ''] of xml.matchAll(/<object\b([^>]*)>([\s\S]*?)<\/object>/g)) {
    const id = /\bid\s*=\s*["']([^"']*)["']/.exec(head)?.[1];
    const components = [...body.matchAll(/<component\b[^>]*?\bobjectid\s*=\s*["']([^"']*)["']/g)].map((match) => match[1]!);
    if (id !== undefined) objects.set(id, { triangles: body.match(/<triangle\b/g)?.length ?? 0, components });
  }
  const sizes = new Map<string, Size>();
  const sizeOf = (id: string, nested: number): Size => {
    const known = sizes.get(id);
    if (known) return known;
    if (nested > MOST_NESTED) throw new ModelFileError(`${fileName} is damaged: its objects are made of each other without an end.`);
    const { triangles, components } = objects.get(id) ?? { triangles: 0, components: [] };
    const size = { objects: 1, triangles };
    for (const part of components) {
      const { objects: more, triangles: faces } = sizeOf(part, nested + 1);
      size.objects += more;
      size.triangles += faces;
    }
    sizes.set(id, size);
    return size;
  };
  let [all, faces] = [0, 0];
  for (const [, id = ''] of xml.matchAll(/<item\b[^>]*?\bobjectid\s*=\s*["']([^"']*)["']/g)) {
    const size = sizeOf(id, 0);
    all += size.objects;
    faces += size.triangles;
  }
  // What no item shows is built by the parser all the same.
  for (const id of objects.keys()) all = Math.max(all, sizeOf(id, 0).objects);
  if (all > MOST_OBJECTS || faces > MOST_TRIANGLES)
    throw new ModelFileError(`${fileName} would come to ${all > MOST_OBJECTS ? 'more than 100,000 objects' : 'more than 50 million triangles'}; it is not opened.`); // prettier-ignore
}
