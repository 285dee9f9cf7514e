import * as THREE from 'three';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { MTLLoader } from 'three/examples/jsm/loaders/MTLLoader.js';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { STLLoader } from 'three/examples/jsm/loaders/STLLoader.js';
import { compose, multiply, Z_UP, type Mat4 } from '../geometry/mat4';
import { guessedUnit, METRES_OF, takenAs, type LengthUnit } from './length-unit';
import { ModelFileError, type ModelFile, type SideFiles } from './model-file';
import { checkTextSize, textOf } from './text';
import { parsed } from './parsed';
import type { RawMaterial } from './three-materials';
import { modelOfThree, namesOfPictures, preparePage, reachOf } from './three-model';

const scaled = (unit: LengthUnit): Mat4 => compose([0, 0, 0], [], [METRES_OF[unit], METRES_OF[unit], METRES_OF[unit]]);
const decode = (bytes: Uint8Array) => new TextDecoder().decode(bytes);
const bufferOf = (bytes: Uint8Array) => Uint8Array.from(bytes).buffer;

/** Wavefront OBJ with its MTL; y-up, metres unless it reaches too far. Far coordinates are brought near before they lose digits. */
export function readObj(bytes: Uint8Array, fileName: string, beside: SideFiles): ModelFile {
  preparePage();
  const text = textOf(bytes, fileName);
  if (text.includes('\0') || !/^\s*v\s/m.test(text)) throw new ModelFileError(`${fileName} is not an OBJ: it has no line of a vertex.`);
  if (/^\s*v\s+.*\b(nan|inf)/im.test(text)) throw new ModelFileError(`${fileName} has vertices whose coordinates are not numbers.`);
  const loader = new OBJLoader(namesOfPictures());
  const library = /^\s*mtllib\s+(.+?)\s*$/m.exec(text)?.[1];
  const materials = library === undefined ? undefined : beside(library);
  const made = materials && new MTLLoader(namesOfPictures()).parse(textOf(materials, library!), '');
  if (made) loader.setMaterials(made);
  const said = (made?.materialsInfo ?? {}) as Readonly<Record<string, RawMaterial>>;
  const origin = farOrigin(text);
  const parse = (whole: string) => parsed(fileName, 'OBJ', () => loader.parse(origin ? movedText(whole, origin) : whole));
  let root = parse(text);
  // Line by line it is looked at only where something is missing: most files are whole, and large.
  const mended = breaksOff(text) || !isWhole(root) ? wholeLines(text) : undefined;
  if (mended) root = parse(mended.text);
  const unit = guessedUnit(reachOf(root), 'meter');
  const file = modelOfThree(root, fileName, takenAs('OBJ', unit), multiply(Z_UP, scaled(unit)), beside, (name) => (Object.hasOwn(said, name) ? said[name] : undefined)); // prettier-ignore
  if (mended) file.model = { ...file.model, remarks: mended.remarks };
  if (!origin) return file;
  const [x, y, z] = origin.map((v) => v * METRES_OF[unit]) as [number, number, number];
  return { ...file, broughtNear: true, model: { ...file.model, basePoint: { eastM: x, northM: -z, heightM: y, turnDeg: 0 } } };
}

/** Whether the last line of an OBJ is of a vertex or a face and too short for one. */
function breaksOff(text: string): boolean {
  const [, numbers] = /^[ \t]*[vf][ \t]+(.*)$/.exec(text.slice(text.lastIndexOf('\n') + 1)) ?? [];
  return numbers !== undefined && numbers.trim().split(/\s+/).length < 3;
}

/** Faces that name what is not there have corners that are not numbers. */
function isWhole(root: THREE.Object3D): boolean {
  let whole = true;
  root.traverse((node) => {
    if (node instanceof THREE.Mesh) whole &&= (node as THREE.Mesh).geometry.getAttribute('position').array.every((x) => Number.isFinite(x));
  });
  return whole;
}

/** An OBJ without the line that it breaks off in, and without faces that name vertices which it does not have; and what is to be said of that. */
function wholeLines(text: string): { text: string; remarks: string[] } {
  const remarks: string[] = [];
  const broken = new Set<number>();
  let vertices = 0;
  for (const { 0: line, 1: first, index } of text.matchAll(/^[ \t]*(v|f)[ \t].*$/gm)) {
    if (first === 'v') vertices++;
    else if (line.trim().split(/\s+/).slice(1).some((corner) => Math.abs(Number.parseInt(corner, 10)) > vertices)) broken.add(index); // prettier-ignore
  }
  if (breaksOff(text)) {
    const last = text.lastIndexOf('\n') + 1;
    broken.delete(last);
    remarks.push('The file is cut off in the middle of a line: what followed is missing.');
    text = text.slice(0, last);
  }
  if (broken.size > 0) {
    remarks.push(`The file is not whole: ${broken.size.toLocaleString('en')} of its faces name vertices that it does not have, and are not shown.`); // prettier-ignore
    text = text.replace(/^[ \t]*f[ \t].*$/gm, (line, index: number) => (broken.has(index) ? '' : line));
  }
  return { text, remarks };
}

/** A round number near the first vertex, if that lies so far out that single precision would blur it. */
function farOrigin(text: string): [number, number, number] | undefined {
  const first = /^\s*v\s+(\S+)\s+(\S+)\s+(\S+)/m.exec(text)!.slice(1, 4).map(Number);
  if (!first.some((v) => Math.abs(v) > 1e5)) return undefined;
  return first.map((v) => Math.round(v / 1000) * 1000) as [number, number, number];
}

function movedText(text: string, origin: readonly number[]): string {
  return text.replace(/^(\s*v\s+)(\S+)\s+(\S+)\s+(\S+)/gm, (_, head: string, ...rest: string[]) => {
    return head + [0, 1, 2].map((k) => Number(rest[k]) - origin[k]!).join(' ');
  });
}

/** STL, binary or text; z-up, millimetres unless it is small. */
export function readStl(bytes: Uint8Array, fileName: string): ModelFile {
  const isText = decode(bytes.subarray(0, 5)) === 'solid' && decode(bytes.subarray(0, 2000)).includes('facet');
  if (isText) checkTextSize(bytes, fileName);
  const count = bytes.length >= 84 ? new DataView(bytes.buffer, bytes.byteOffset).getUint32(80, true) : -1;
  if (!isText && (count < 0 || bytes.length < 84 + count * 50))
    throw new ModelFileError(
      `${fileName} is cut off, or not an STL: it has ${count < 0 ? 'no' : 'fewer triangles than its'} header${count < 0 ? '' : ' says'}.`,
    );
  if (isText && !/endsolid/.test(decode(bytes.subarray(-2000))))
    throw new ModelFileError(`${fileName} is cut off: its last line endsolid is missing.`);
  return readGeometry(
    parsed(fileName, 'STL', () => new STLLoader().parse(bufferOf(bytes))),
    fileName,
    'STL',
    'millimeter',
  );
}

/** PLY, binary or text; z-up, metres unless it reaches too far. Points without faces are refused. */
export function readPly(bytes: Uint8Array, fileName: string): ModelFile {
  const head = decode(bytes.subarray(0, 20_000));
  const end = head.indexOf('end_header');
  if (!head.startsWith('ply') || end < 0) throw new ModelFileError(`${fileName} is not a PLY: its header is missing.`);
  if (!/element\s+face\s+[1-9]/.test(head.slice(0, end))) throw new ModelFileError(`${fileName} holds points without surfaces.`);
  if (/format\s+ascii/.test(head)) checkTextSize(bytes, fileName);
  const vertices = Number(/element\s+vertex\s+(\d+)/.exec(head)?.[1] ?? 0);
  if (vertices * 3 > bytes.length)
    throw new ModelFileError(`${fileName} is cut off: it names ${String(vertices)} vertices and is too short for them.`);
  return readGeometry(
    parsed(fileName, 'PLY', () => new PLYLoader().parse(bufferOf(bytes))),
    fileName,
    'PLY',
    'meter',
  );
}

function readGeometry(geometry: THREE.BufferGeometry, fileName: string, format: string, usual: 'meter' | 'millimeter'): ModelFile {
  const root = new THREE.Mesh(geometry, new THREE.MeshBasicMaterial({ name: '' }));
  root.name = fileName.replace(/\.[^.]*$/, '');
  const unit = guessedUnit(reachOf(root), usual);
  return modelOfThree(root, fileName, takenAs(format, unit), scaled(unit), () => undefined);
}
