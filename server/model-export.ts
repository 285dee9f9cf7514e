import sharp from 'sharp';
import { writeGltf } from '../core/formats/gltf-writer';
import { withSetting } from '../core/project/setting-source';
import { kindsWith } from '../core/project/kinds';
import { placedSources } from '../core/project/placed-sources';
import { compileScene } from '../core/scene/compile';
import type { BlobStore } from './blobs';
import type { ProjectStore } from './project-store';
import { boundsNow } from './mesh-bounds';
import { loadAssets } from './scene-assets';
import { shippedKinds } from './things/catalogue';
import { SETTING } from '../core/setting/setting-model';
import type { SourceStore } from './source-store';

/** Maps leave at this size: what a viewer shows, at a quarter of the bytes. */
const MAP_PX = 512;

/** The model as it is shown now, dressed in its finishes, as a GLB. Undefined while there is nothing to show. */
export async function modelAsGlb(project: ProjectStore, sources: SourceStore, blobs: BlobStore): Promise<Uint8Array | undefined> {
  const scene = compileScene(
    withSetting(
      placedSources(sources.models(), project.entries),
      project.entries,
      kindsWith(shippedKinds(), project.entries),
      undefined,
      await boundsNow(project, sources, blobs),
    ),
    project.entries,
  );
  if (scene.instances.length === 0) return undefined;
  const png = (texels: Uint8Array, width: number, height: number) =>
    sharp(texels, { raw: { width, height, channels: texels.length === width * height * 4 ? 4 : 3 } })
      .resize({ width: MAP_PX, height: MAP_PX, fit: 'inside', withoutEnlargement: true })
      .png({ compressionLevel: 6 })
      .toBuffer();
  return writeGltf(scene, await loadAssets(scene.instances, blobs), png, SETTING);
}
