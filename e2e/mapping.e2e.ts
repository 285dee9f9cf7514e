import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Browser } from 'playwright-core';
import { blended, HEX_TILING_GLSL, patchesAt } from '../core/finish/hex-tiling';
import { descend, RELIEF_MOST_STEPS, RELIEF_STEP, reliefGlsl } from '../core/finish/relief';
import { waveAt, WAVE_COUNT, WAVES_GLSL, wavesOf } from '../core/finish/waves';
import { leaveBrowser, openBrowser } from './stage';

/** The shaders' mathematics against the core's, pixel by pixel, on a page with nothing else on it. */

let browser: Browser;
beforeAll(async () => {
  browser = await openBrowser();
});
afterAll(async () => {
  await leaveBrowser(browser);
});

const SIDE = 96;
const SPAN = 23.7;
/** Texels of a 4 x 4 map, grey. */
const MAP = [12, 240, 90, 160, 200, 33, 77, 130, 250, 5, 180, 60, 110, 220, 20, 140];

/** Red and green of every pixel that a shader draws on a page, with a 4 x 4 map at hand. */
async function drawn(body: string): Promise<[number, number][]> {
  const shader = `#version 300 es
    precision highp float;
    uniform sampler2D map;
    out vec4 colour;
    ${body}`;
  const page = await browser.newPage();
  const pixels = await page.evaluate(
    ({ shader, SIDE, MAP }) => {
      const canvas = Object.assign(document.createElement('canvas'), { width: SIDE, height: SIDE });
      const gl = canvas.getContext('webgl2')!;
      const program = gl.createProgram();
      for (const [type, text] of [
        [gl.VERTEX_SHADER, '#version 300 es\nin vec2 at; void main() { gl_Position = vec4(at, 0.0, 1.0); }'],
        [gl.FRAGMENT_SHADER, shader],
      ] as const) {
        const part = gl.createShader(type)!;
        gl.shaderSource(part, text);
        gl.compileShader(part);
        if (!gl.getShaderParameter(part, gl.COMPILE_STATUS)) return gl.getShaderInfoLog(part) ?? 'not compiled';
        gl.attachShader(program, part);
      }
      gl.linkProgram(program);
      gl.useProgram(program);
      gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
      gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 3, -1, -1, 3]), gl.STATIC_DRAW);
      gl.enableVertexAttribArray(0);
      gl.vertexAttribPointer(0, 2, gl.FLOAT, false, 0, 0);
      gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, 4, 4, 0, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(MAP.flatMap((g) => [g, g, g, 255])));
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
      gl.drawArrays(gl.TRIANGLES, 0, 3);
      const out = new Uint8Array(SIDE * SIDE * 4);
      gl.readPixels(0, 0, SIDE, SIDE, gl.RGBA, gl.UNSIGNED_BYTE, out);
      return Array.from({ length: SIDE * SIDE }, (_, i): [number, number] => [out[i * 4]!, out[i * 4 + 1]!]);
    },
    { shader, SIDE, MAP },
  );
  await page.close();
  if (typeof pixels === 'string') throw new Error(pixels);
  return pixels;
}

const texel = (u: number, v: number) => MAP[Math.floor((((v % 1) + 1) % 1) * 4) * 4 + Math.floor((((u % 1) + 1) % 1) * 4)]! / 255;
/** Coordinates of a pixel, `span` repeats across. */
const placeOf = (i: number, span: number): [number, number] => [
  (((i % SIDE) + 0.5) / SIDE - 0.5) * span,
  ((Math.floor(i / SIDE) + 0.5) / SIDE - 0.5) * span,
];

it('the shader breaks the repeat at the same places as the kernel, to a pixel', async () => {
  const mean = MAP.reduce((a, b) => a + b) / MAP.length / 255;
  const pixels = await drawn(`${HEX_TILING_GLSL}
    void main() {
      vec2 st = (gl_FragCoord.xy / ${SIDE.toFixed(1)} - 0.5) * ${SPAN.toFixed(1)};
      colour = vec4(tiledTexture(map, st, vec4(${mean.toFixed(8)}), dFdx(st), dFdy(st)).rgb, 1.0);
    }`);
  let differing = 0;
  pixels.forEach(([got], i) => {
    const [u, v] = placeOf(i, SPAN);
    const patches = patchesAt(u, v);
    const want = blended(patches.map((p) => texel(u + p.u, v + p.v)) as [number, number, number], patches, mean) * 255;
    if (Math.abs(got - want) > 2) differing++;
  });
  // A lookup in f32 may fall on the other side of a texel's border: fewer than one in two hundred.
  expect(differing).toBeLessThan((SIDE * SIDE) / 200);
});

it('the shader sees the same place of a relief as the core, to a pixel', async () => {
  for (const [ds, dt] of [[0.35, -0.2], [-0.02, 0.01], [1.7, 0.4]] as const) {
    const pixels = await drawn(`float heightOf(vec2 st) { return textureLod(map, st, 0.0).r; }
      ${reliefGlsl(RELIEF_STEP, RELIEF_MOST_STEPS)}
      void main() {
        vec2 st = (gl_FragCoord.xy / ${SIDE.toFixed(1)} - 0.5) * 2.0;
        colour = vec4(fract(reliefAt(st, vec2(${ds.toFixed(3)}, ${dt.toFixed(3)}))), 0.0, 1.0);
      }`);
    let differing = 0;
    pixels.forEach((got, i) => {
      const [u, v] = placeOf(i, 2);
      const { s, t } = descend(texel, u, v, ds, dt);
      const off = [s, t].map((x, k) => Math.abs((x - Math.floor(x)) * 255 - got[k]!));
      if (off.some((d) => d > 2 && d < 253)) differing++;
    });
    expect(differing).toBeLessThan((SIDE * SIDE) / 100);
  }
}); // prettier-ignore

it('the shader’s waves have the slopes of the core’s, at any moment', async () => {
  const table = wavesOf({ heightM: 0.3, lengthM: 4, towardsDeg: 60, windMs: 0 });
  const list = Array.from({ length: WAVE_COUNT * 2 }, (_, i) => `vec4(${[...table.subarray(i * 4, i * 4 + 4)].map((n) => n.toFixed(7)).join(', ')})`);
  for (const time of [0, 12.5]) {
    const pixels = await drawn(`${WAVES_GLSL.replace(/uniform vec4 waves\[\d+\];/, `const vec4 waves[${String(list.length)}] = vec4[](${list.join(', ')});`).replace('uniform float waveTime;', `const float waveTime = ${time.toFixed(2)};`)}
      void main() {
        vec2 place = (gl_FragCoord.xy / ${SIDE.toFixed(1)} - 0.5) * 8.0;
        colour = vec4(waveSlopes(place, vec2(0.0001, 0.0), vec2(0.0, 0.0001)).xy * 0.5 + 0.5, 0.0, 1.0);
      }`);
    pixels.forEach((got, i) => {
      const [x, y] = placeOf(i, 8);
      const { alongX, alongY } = waveAt(table, x, y, time);
      // Half a step of eight bits, and what single precision loses.
      for (const [k, slope] of [alongX, alongY].entries()) expect(Math.abs((slope * 0.5 + 0.5) * 255 - got[k]!)).toBeLessThan(1);
    });
  }
}); // prettier-ignore
