import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { cosinePower, webOfForm } from '../../../core/lamp/closed-forms';
import { lampWebOf } from '../../../core/lamp/web-grid';
import { coneOfRow, lightByWebs, meanOfPlanes, putWeb, WEB_GAMMAS, WEB_ROWS, WEB_UNIFORMS } from './lamp-webs';

const web = (power: number) =>
  lampWebOf(webOfForm({ name: '', share: cosinePower(power), isRound: true, inputW: 10, fluxLm: 1000, openingM: [0, 0, 0] }));

describe('webs in the working picture', () => {
  it('have the intensity of the closed form, (n + 1) / 2 pi per lm on the axis, and its cosine’s power beside it', () => {
    const mean = meanOfPlanes(web(2).grid);
    expect(mean[0]).toBeCloseTo(3 / (2 * Math.PI), 2);
    for (const gamma of [20, 45, 70]) expect(mean[gamma]! / mean[0]!).toBeCloseTo(Math.cos((gamma * Math.PI) / 180) ** 2, 3);
    expect(mean[120]).toBe(0);
  });

  it('lie in rows, each against its brightest', () => {
    expect(putWeb(3, web(1).grid)).toBeCloseTo(1 / Math.PI, 2);
    const data = WEB_UNIFORMS.lampWebs.value.image.data as Float32Array;
    expect(data[3 * WEB_GAMMAS]).toBe(1);
    expect(data[3 * WEB_GAMMAS + 60]).toBeCloseTo(0.5, 3);
  });

  it('are named by cones that no lamp has, back to their row as the shader reads it', () => {
    for (let row = 0; row < WEB_ROWS; row++) {
      const cosine = Math.cos(coneOfRow(row));
      expect(cosine).toBeLessThan(0);
      expect(Math.trunc(-cosine * WEB_ROWS)).toBe(row);
    }
  });

  it('find the place in three’s shader that they change', () => {
    const shader = { fragmentShader: 'void main() {}\n#include <lights_pars_begin>', uniforms: {} };
    lightByWebs(shader);
    expect(shader.fragmentShader).toContain('texelFetch(lampWebs');
    expect(shader.fragmentShader.match(/smoothstep\( coneCosine/g)).toHaveLength(1);
    expect(THREE.ShaderChunk.lights_pars_begin).not.toContain('lampWebs');
  });
});
