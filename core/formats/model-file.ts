import type { Model } from '../model/model';
import { TEXTURE_PICTURES, type SourceMaterial } from '../model/schema';

type Texture = NonNullable<SourceMaterial['texture']>;

/** A model file as read: the model, with its meshes and pictures by keys of the reader's own until they are hashed. */
export interface ModelFile {
  /** Name and version of the format, for people. */
  format: string;
  model: Model;
  /** Encoded meshes by the key that parts name them with. */
  meshes: Map<string, Uint8Array>;
  /** PNG, JPEG and WebP files by the key that textures name them with. */
  pictures: Map<string, Uint8Array>;
  /** The reader itself has brought far coordinates near, by the model's base point. */
  broughtNear?: boolean;
}

/** Takes a mesh or picture under its reader's key as soon as it has been read. */
export type TakeBlob = (key: string, blob: Uint8Array) => void;

/** Files that lie beside the one that is read, by the name it calls them; undefined: not there. */
export type SideFiles = (name: string) => Uint8Array<ArrayBuffer> | undefined;

export const NO_SIDE_FILES: SideFiles = () => undefined;

/** What is wrong with a file, in a sentence for the person. */
export class ModelFileError extends Error {
  readonly code = 'model-file';
}

/** The model with the keys of its meshes and pictures replaced by hashes. */
export function withHashes(model: Model, hashOf: (key: string) => string): Model {
  return {
    ...model,
    elements: new Map([...model.elements].map(([id, e]) => [id, { ...e, parts: e.parts.map((p) => ({ ...p, mesh: hashOf(p.mesh) })) }])),
    materials: new Map(
      [...model.materials].map(([id, m]) => [id, m.texture ? { ...m, texture: withPictureHashes(m.texture, hashOf) } : m]),
    ),
  };
}

function withPictureHashes(texture: Texture, hashOf: (key: string) => string): Texture {
  const out = { ...texture };
  for (const part of TEXTURE_PICTURES) {
    const key = texture[part];
    if (key) out[part] = hashOf(key);
  }
  return out;
}
