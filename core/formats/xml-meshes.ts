import { strFromU8, strToU8, zipSync } from 'fflate';
import * as THREE from 'three';
import { ColladaComposer } from 'three/examples/jsm/loaders/collada/ColladaComposer.js';
import { ColladaParser } from 'three/examples/jsm/loaders/collada/ColladaParser.js';
import { ThreeMFLoader } from 'three/examples/jsm/loaders/3MFLoader.js';
import { compose, IDENTITY, Z_UP } from '../geometry/mat4';
import { METRES_OF, type LengthUnit } from './length-unit';
import { ModelFileError, type ModelFile, type SideFiles } from './model-file';
import { checkComponents } from './3mf-components';
import { checkTextSize, textOf } from './text';
import { parsed } from './parsed';
import { keepingPictures, modelOfThree, pictureNames, preparePage } from './three-model';
import { openZip, type ZipFiles } from './zip';

/** COLLADA 1.4 and 1.5; unit and up axis as the file says. */
export function readCollada(bytes: Uint8Array, fileName: string, beside: SideFiles): ModelFile {
  preparePage();
  const text = textOf(bytes, fileName);
  if (!/<(\w+:)?COLLADA[\s>]/.test(text)) throw new ModelFileError(`${fileName} is not COLLADA: its root is missing.`);
  if (!/<\/(\w+:)?COLLADA\s*>\s*$/.test(text)) throw new ModelFileError(`${fileName} is cut off: its end mark </COLLADA> is missing.`);
  const root = parsed(fileName, 'COLLADA', () => {
    const found = new ColladaParser().parse(text);
    if (!found) throw new Error('its XML is broken');
    const { scene } = new ColladaComposer(found.library, found.collada, pictureNames(), pictureNames()).compose();
    if (found.asset.upAxis !== 'Z_UP') scene.applyMatrix4(new THREE.Matrix4().fromArray(Z_UP));
    scene.scale.multiplyScalar(found.asset.unit || 1);
    scene.traverse((node) => (node.name = unescaped(node.name ?? '')));
    return scene;
  });
  return modelOfThree(root, fileName, 'COLLADA', IDENTITY, beside);
}

/** The parser leaves XML's own escapes in attributes. */
function unescaped(name: string): string {
  const named: Record<string, string> = { lt: '<', gt: '>', quot: '"', apos: "'", amp: '&' };
  return name.replace(/&(?:#x([0-9a-f]+)|#(\d+)|(lt|gt|quot|apos|amp));/gi, (_, hex?: string, decimal?: string, word?: string) =>
    word ? named[word.toLowerCase()]! : String.fromCodePoint(Math.min(0x10ffff, hex ? Number.parseInt(hex, 16) : Number(decimal))),
  );
}

const UNIT = /<model[^>]*\sunit="(\w+)"/;

/** The page's selectors find an element by its local name, whatever its prefix; linkedom's do not, so that prefixes are taken away. */
function withoutPrefixes(files: ZipFiles, fileName: string): Uint8Array<ArrayBuffer> {
  const out: Record<string, Uint8Array> = {};
  for (const name of files.names) {
    const content = files.read(name)!;
    if (/\.model$/i.test(name)) {
      checkTextSize(content, `${fileName}/${name}`);
      const text = strFromU8(content).replace(/<(\/?)[\w.-]+:/g, '<$1');
      checkComponents(text, fileName);
      out[name] = strToU8(text);
    } else out[name] = content;
  }
  return zipSync(out, { level: 0 });
}

/** 3MF; unit as the file says, millimetres otherwise (3MF Core Specification 1.3, 3.4); z-up. */
export function read3mf(bytes: Uint8Array, fileName: string): ModelFile {
  preparePage();
  const files = openZip(bytes, fileName);
  const main = [...files.names].find((name) => /\.model$/i.test(name));
  if (main === undefined) throw new ModelFileError(`${fileName} is not a 3MF: it holds no model.`);
  const unit = UNIT.exec(strFromU8(files.read(main)!))?.[1] ?? 'millimeter';
  if (!(unit in METRES_OF)) throw new ModelFileError(`${fileName} is in “${unit}”, which is no unit of 3MF.`);
  const metres = METRES_OF[unit as LengthUnit];
  const { result, pictures } = parsed(fileName, '3MF', () =>
    keepingPictures(() => new ThreeMFLoader().parse(withoutPrefixes(files, fileName).buffer)),
  );
  return modelOfThree(result, fileName, '3MF', compose([0, 0, 0], [], [metres, metres, metres]), pictures);
}
