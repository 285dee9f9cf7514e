import * as THREE from 'three';
import type { Finish } from '../../../core/finish/finish';
import { faceTintOf } from '../../../core/finish/clear-body';
import type { SurfaceBatch } from './surface-batch';

/** Colour that each face of a tinted pane or sheet takes from what is seen through it; undefined: it takes none, or by the way inside. */
function tintOf(finish: Finish): [number, number, number] | undefined {
  const { transmission, opacity, body, attenuationDistanceM } = finish;
  if (transmission === 0 || opacity < 1 || (attenuationDistanceM !== null && body !== 'sheet')) return undefined;
  const tint = faceTintOf(finish);
  return Math.min(...tint) > 0.97 ? undefined : tint;
}

/** Multiplies what has been drawn behind a tinted surface; of the sky, which is drawn last, only the lightness. */
function filterMaterial(tint: readonly [number, number, number]): THREE.MeshBasicMaterial {
  return new THREE.MeshBasicMaterial({
    color: new THREE.Color(...tint),
    opacity: 1 - (0.2126 * tint[0] + 0.7152 * tint[1] + 0.0722 * tint[2]),
    transparent: true,
    side: THREE.DoubleSide,
    depthWrite: false,
    blending: THREE.CustomBlending,
    blendSrc: THREE.ZeroFactor,
    blendDst: THREE.SrcColorFactor,
    blendSrcAlpha: THREE.OneFactor,
    blendDstAlpha: THREE.OneMinusSrcAlphaFactor,
  });
}

/** The colouring of what is seen through tinted batches of parts. */
export class Filters {
  private readonly shown = new Map<SurfaceBatch, THREE.Mesh<THREE.BufferGeometry, THREE.Material>>();

  constructor(private readonly root: THREE.Object3D) {}

  set(batch: SurfaceBatch): void {
    this.drop(batch);
    const tint = tintOf(batch.instances[0]!.finish);
    if (!tint) return;
    const filter = batch.twin(filterMaterial(tint));
    // Before the surface itself, whose shine is not coloured.
    filter.renderOrder = 0.5;
    this.shown.set(batch, filter);
    this.root.add(filter);
  }

  drop(batch: SurfaceBatch): void {
    const filter = this.shown.get(batch);
    if (!filter) return;
    this.root.remove(filter);
    filter.material.dispose();
    this.shown.delete(batch);
  }
}
