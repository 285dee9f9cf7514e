import * as THREE from 'three';
import type { Finish } from '../../../core/finish/finish';
import { absorptionOf, faceTintOf, isDense, isMurky } from '../../../core/finish/clear-body';
import { meanScale } from '../../../core/geometry/mat4';
import { meanChordM } from '../../../core/geometry/mean-chord';
import type { SurfaceBatch } from './surface-batch';

/**
 * Colour that each face of a tinted body or sheet takes from what is seen through it; undefined: as good as none. For what is
 * taken on the way inside, each of two faces stands for half of it.
 */
function tintOf(batch: SurfaceBatch): [number, number, number] | undefined {
  const { finish } = batch.instances[0]!;
  if (finish.transmission === 0 || finish.opacity < 1) return undefined;
  let tint = faceTintOf(finish);
  if (isDense(finish)) {
    const halfWayM = meanWayM(batch, finish) / 2;
    const absorption = absorptionOf(finish);
    tint = tint.map((share, c) => share * Math.exp(-absorption[c]! * halfWayM)) as typeof tint;
  }
  return Math.min(...tint) > 0.97 ? undefined : tint;
}

/** The mean way through closed bodies; open ones are taken to be deep, murky water so deep that nothing is seen of its ground. */
function meanWayM(batch: SurfaceBatch, finish: Finish): number {
  const { attenuationDistanceM } = finish;
  const wayM = meanChordM(batch.instances.map(({ transform }, i) => ({ mesh: batch.restingMesh(i), scale: meanScale(transform) })));
  return wayM > 1e-3 ? wayM : (isMurky(finish) ? 16 : 2) * attenuationDistanceM!;
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
    const tint = tintOf(batch);
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
