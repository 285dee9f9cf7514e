import { Document, WebIO, type Node, type Primitive } from '@gltf-transform/core';
import { decodeMesh, type Mesh } from '../geometry/mesh';
import { readGltf, type GltfReader } from './gltf';
import type { ModelFile } from './model-file';

/** For tests: files written by the glTF library itself, and read. */

/** A PNG of one texel; what follows it tells pictures apart. */
export const PICTURE = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);

export interface Made {
  document: Document;
  /** A primitive of a mesh as arrays. */
  primitive: (mesh: Mesh) => Primitive;
  node: (name: string, ...primitives: Primitive[]) => Node;
}

export function made(fill: (made: Made) => Node[]): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const primitive = ({ positions, indices }: Mesh) =>
    document
      .createPrimitive()
      .setAttribute('POSITION', document.createAccessor().setType('VEC3').setArray(new Float32Array(positions)).setBuffer(buffer))
      .setIndices(document.createAccessor().setType('SCALAR').setArray(new Uint32Array(indices)).setBuffer(buffer));
  const node = (name: string, ...primitives: Primitive[]) => {
    const made = document.createNode(name);
    if (primitives.length === 0) return made;
    const mesh = document.createMesh();
    for (const p of primitives) mesh.addPrimitive(p);
    return made.setMesh(mesh);
  };
  const scene = document.createScene();
  for (const child of fill({ document, primitive, node })) scene.addChild(child);
  return document;
}

export const readMade = async (io: GltfReader, document: Document): Promise<ModelFile> =>
  readGltf(io, await new WebIO().registerExtensions(extensionsOf(document)).writeBinary(document), 'house.glb');

export const extensionsOf = (document: Document) =>
  document
    .getRoot()
    .listExtensionsUsed()
    .map((e) => e.constructor as never);

export const meshOf = (file: ModelFile, key: string) => decodeMesh(file.meshes.get(key)!) as Mesh;
