/** What a picture of a map set is for. */
export type MapRole =
  | 'base' | 'normal-gl' | 'normal-dx' | 'normal' | 'roughness' | 'glossiness' | 'metalness' | 'height' | 'occlusion' | 'opacity'
  /** Occlusion, roughness and metalness in red, green and blue. */
  | 'packed'; // prettier-ignore

/** Words that name a role, as they are common in file names of map sets (common practice). Narrow ones before wide ones. */
const WORDS: readonly (readonly [MapRole, readonly string[]])[] = [
  ['normal-dx', ['normaldx', 'nordx', 'nrmdx', 'normaldirectx', 'directx']],
  ['normal-gl', ['normalgl', 'norgl', 'nrmgl', 'normalopengl', 'opengl']],
  ['normal', ['normal', 'normals', 'normalmap', 'nrm', 'nor', 'norm', 'nmap', 'n']],
  ['packed', ['orm', 'arm', 'occlusionroughnessmetallic', 'occlusionroughnessmetalness']],
  ['glossiness', ['glossiness', 'gloss', 'smoothness', 'smooth', 'gls']],
  ['roughness', ['roughness', 'rough', 'rgh', 'r']],
  ['metalness', ['metalness', 'metallic', 'metal', 'mtl', 'met', 'm']],
  ['height', ['height', 'heightmap', 'displacement', 'disp', 'displace', 'bump', 'depth', 'h']],
  ['occlusion', ['ambientocclusion', 'occlusion', 'occ', 'ao', 'mixedao']],
  ['opacity', ['opacity', 'alpha', 'mask', 'transparency', 'cutout']],
  ['base', ['basecolor', 'basecolour', 'color', 'colour', 'albedo', 'diffuse', 'diff', 'dif', 'col', 'bc', 'alb', 'base', 'd', 'c']],
]; // prettier-ignore
/** Single letters mean a role only as the last word of a name. */
const LAST_ONLY = 1;
/** Words that say how large or how coded a picture is, not what it is for. */
const BESIDE = /^(?:\d+k?|\d+x\d+|jpe?g|png|tiff?|webp|8bit|16bit|srgb|linear|raw|tiled|seamless|map|tex|texture)$/;

/** The role that a file's name tells, or undefined. */
export function roleOf(fileName: string): MapRole | undefined {
  const stem = fileName.replace(/^.*[/\\]/, '').replace(/\.\w+$/, '');
  const words = stem
    .replace(/([a-z\d])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z\d]+/)
    .filter((word) => word && !BESIDE.test(word));
  // Two words may make one: base color, normal gl.
  const candidates = words.flatMap((word, i) => [{ text: words.slice(i, i + 2).join(''), last: i + 2 >= words.length }, { text: word, last: i + 1 === words.length }]); // prettier-ignore
  for (const [role, known] of WORDS)
    for (const word of known) if (candidates.some(({ text, last }) => text === word && (word.length > LAST_ONLY || last))) return role;
  return undefined;
}

export interface MapSetFiles {
  roles: Map<MapRole, string>;
  /** Pictures whose names say nothing, and second ones of a role. */
  left: string[];
}

/** Sorts the pictures of a map set by what their names say. A single picture without a known word is the colour. */
export function sortMapFiles(names: readonly string[]): MapSetFiles {
  const roles = new Map<MapRole, string>();
  const left: string[] = [];
  for (const name of [...names].sort()) {
    const role = roleOf(name);
    if (role && !roles.has(role)) roles.set(role, name);
    else left.push(name);
  }
  const unnamed = left.filter((name) => roleOf(name) === undefined);
  if (!roles.has('base') && unnamed.length === 1) {
    roles.set('base', unnamed[0]!);
    left.splice(left.indexOf(unnamed[0]!), 1);
  }
  return { roles, left };
}
