import { decodeMesh, meshBounds, type Bounds } from '../core/geometry/mesh';
import { meshesToKnow } from '../core/project/setting-source';
import type { BoundsOf } from '../core/setting/stand-in';
import type { BlobStore } from './blobs';
import type { ProjectStore } from './project-store';
import type { SourceStore } from './source-store';

/** Boxes about meshes that were read, by their hashes: what a hash stands for does not change. */
const known = new Map<string, Bounds>();

/** Boxes about the meshes that stand-ins ask for. */
export async function boundsNow(project: ProjectStore, sources: SourceStore, blobs: BlobStore): Promise<BoundsOf> {
  for (const mesh of meshesToKnow(sources.models(), project.entries)) {
    if (known.has(mesh)) continue;
    const bytes = await blobs.get(mesh);
    const decoded = bytes && decodeMesh(bytes);
    if (decoded && typeof decoded !== 'string') known.set(mesh, meshBounds(decoded.positions));
  }
  return (mesh) => known.get(mesh);
}
