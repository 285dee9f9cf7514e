import * as THREE from 'three';
import { exposureScale } from '../../../core/image/tone';
import { coneOfRow, putWeb } from './lamp-webs';
import type { SceneLamp } from '../../../core/scene/scene';

/** The working picture shows the strongest lamps once it is dark enough for them to matter; the kernel shows all, always. */
const MOST = 10;
const SHOWN_BELOW_EV = 8;

export class LampLights {
  private lights: { light: THREE.PointLight | THREE.SpotLight; cd: number }[] = [];
  private lamps: readonly SceneLamp[] = [];
  private dark = false;

  constructor(private readonly root: THREE.Scene) {}

  set(lamps: readonly SceneLamp[], ev100: number): void {
    this.lamps = lamps;
    this.rebuild(ev100);
  }

  expose(ev100: number): void {
    if (this.dark !== ev100 < SHOWN_BELOW_EV) this.rebuild(ev100);
    const unit = exposureScale(ev100);
    for (const { light, cd } of this.lights) light.intensity = cd * unit;
  }

  private rebuild(ev100: number): void {
    for (const { light } of this.lights) this.root.remove(light);
    this.lights = [];
    this.dark = ev100 < SHOWN_BELOW_EV;
    if (!this.dark) return;
    const strongest = [...this.lamps].sort((a, b) => b.beam.intensityCd - a.beam.intensityCd).slice(0, MOST);
    const unit = exposureScale(ev100);
    for (const [row, { beam, colour, position, axis, web }] of strongest.entries()) {
      const peak = Math.max(...colour);
      const tint = new THREE.Color().setRGB(colour[0] / peak, colour[1] / peak, colour[2] / peak);
      const cd = (web ? putWeb(row, web.grid) * web.fluxLm : beam.intensityCd) * peak;
      const outer = web ? coneOfRow(row) : Math.acos(Math.max(-1, beam.cosOuter));
      const light =
        web || outer < Math.PI / 2 ? new THREE.SpotLight(tint, cd * unit, 0, outer, 0.7, 2) : new THREE.PointLight(tint, cd * unit, 0, 2);
      light.position.set(...position);
      if (light instanceof THREE.SpotLight) {
        light.target.position.set(position[0] + axis[0], position[1] + axis[1], position[2] + axis[2]);
        light.target.updateMatrixWorld();
      }
      this.root.add(light);
      this.lights.push({ light, cd });
    }
  }
}
