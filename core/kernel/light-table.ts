import type { PreparedMesh } from '../geometry/prepare-mesh';
import { radianceOf } from '../finish/finish';
import type { SceneLamp } from '../scene/scene';
import * as L from './assembly/layout';
import { fluxOf } from '../lamp/intensity';
import { glowOver, type EmissivePart, type Glow } from './emission-picture';

/** What a lamp has beside a point's: where its grid lies, how it is turned, and half its length and width. */
interface LampParts {
  at: number;
  right: readonly [number, number, number];
  halves: readonly [number, number];
  lens: number;
}

function halvesOf(extent: SceneLamp['extent']): [number, number] {
  switch (extent?.kind) {
    case 'rectangle':
      return [extent.lengthM / 2, extent.widthM / 2];
    case 'disc':
      return [-1, extent.radiusM];
    case 'line':
      return [extent.lengthM / 2, 0];
    default:
      return [0, 0];
  }
}

/** Collects lights, then gives each a share in proportion to its flux, lm. */
export class LightTable {
  private readonly records: { words: number[]; kind: number; fluxLm: number; areaM2: number; lamp: LampParts | undefined }[] = [];
  fluxLm = 0;

  get count(): number {
    return this.records.length;
  }

  /** `gridAt`: where the grid of its photometric web lies in the kernel's memory, if it has one. */
  addLamp({ position, axis, right, beam, colour, radiusM, extent, web, lens = 0 }: SceneLamp, gridAt = 0): void {
    const length = Math.hypot(...axis) || 1;
    const rgb = colour.map((c) => c * (web ? web.fluxLm : beam.intensityCd));
    const direction = axis.map((a) => a / length);
    this.push(L.LIGHT_IS_LAMP, [...position, radiusM, ...direction, beam.cosInner, beam.cosOuter, ...rgb], web?.fluxLm ?? fluxOf(beam), 0, {
      at: gridAt,
      right,
      halves: halvesOf(extent),
      lens,
    });
  }

  /**
   * The triangles of an emissive part, in their own order; returns the number of the first. Where a picture colours their light,
   * each sheds that of its mean; the picture itself is seen.
   */
  addMesh(mesh: PreparedMesh, instance: EmissivePart, glow?: Glow): number {
    const { transform: m, finish, emissionScale } = instance;
    const first = this.count;
    const whole = radianceOf(finish).map((c) => c * emissionScale * finish.opacity);
    const glowAt = glow && glowOver(mesh, instance, glow);
    const corner = (i: number) => {
      const p = mesh.indices[i]! * 3;
      const [x, y, z] = [mesh.positions[p]!, mesh.positions[p + 1]!, mesh.positions[p + 2]!];
      return [0, 1, 2].map((r) => m[r]! * x + m[4 + r]! * y + m[8 + r]! * z + m[12 + r]!) as [number, number, number];
    };
    for (let t = 0; t < mesh.indices.length; t += 3) {
      const [a, b, c] = [corner(t), corner(t + 1), corner(t + 2)];
      const e1 = b.map((v, i) => v - a[i]!);
      const e2 = c.map((v, i) => v - a[i]!);
      const area = Math.hypot(e1[1]! * e2[2]! - e1[2]! * e2[1]!, e1[2]! * e2[0]! - e1[0]! * e2[2]!, e1[0]! * e2[1]! - e1[1]! * e2[0]!) / 2;
      const radiance = glowAt ? glowAt(t).map((share, i) => share * whole[i]!) : whole;
      const luminance = 0.2126 * radiance[0]! + 0.7152 * radiance[1]! + 0.0722 * radiance[2]!;
      this.push(1, [...a, ...e1, ...e2, ...radiance], luminance * Math.PI * area, area);
    }
    return first;
  }

  pack(): { table: Uint8Array; cdf: Float32Array } {
    const table = new Uint8Array(this.count * L.LIGHT_SIZE);
    const view = new DataView(table.buffer);
    const cdf = new Float32Array(this.count);
    let sum = 0;
    for (const [i, { kind, words, fluxLm, areaM2, lamp }] of this.records.entries()) {
      const p = i * L.LIGHT_SIZE;
      view.setInt32(p + L.LIGHT_KIND, kind, true);
      words.forEach((value, k) => {
        view.setFloat32(p + 4 + k * 4, value, true);
      });
      view.setUint32(p + L.LIGHT_WEB, lamp?.at ?? 0, true);
      lamp?.right.forEach((value, k) => {
        view.setFloat32(p + L.LIGHT_RIGHT + k * 4, value, true);
      });
      view.setInt32(p + L.LIGHT_LENS, lamp?.lens ?? 0, true);
      view.setFloat32(p + L.LIGHT_HALF_LENGTH, lamp?.halves[0] ?? 0, true);
      view.setFloat32(p + L.LIGHT_HALF_WIDTH, lamp?.halves[1] ?? 0, true);
      view.setFloat32(p + L.LIGHT_PROBABILITY, this.fluxLm > 0 ? Math.max(1e-12, fluxLm / this.fluxLm) : 1, true);
      view.setFloat32(p + L.LIGHT_AREA, Math.max(1e-12, areaM2), true);
      sum += fluxLm;
      cdf[i] = this.fluxLm > 0 ? sum / this.fluxLm : 1;
    }
    return { table, cdf };
  }

  /** `words` fill the record from LIGHT_POSITION up to and including LIGHT_POWER. */
  private push(kind: number, words: number[], fluxLm: number, areaM2: number, lamp?: LampParts): void {
    this.records.push({ kind, words, fluxLm, areaM2, lamp });
    this.fluxLm += fluxLm;
  }
}
