import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Browser } from 'playwright-core';
import { blended, HEX_TILING_GLSL, patchesAt } from '../core/finish/hex-tiling';
import { openBrowser } from './stage';

/** The shaders' mathematics against the core's, pixel by pixel, on a page with nothing else on it. */

let browser: Browser;
beforeAll(async () => {
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
});

const SIDE = 96;
const SPAN = 23.7;
/** Texels of a 4 x 4 map, grey. */
const MAP = [12, 240, 90, 160, 200, 33, 77, 130, 250, 5, 180, 60, 110, 220, 20, 140];

it('the shader breaks the repeat at the same places as the kernel, to a pixel', async () => {
  const mean = MAP.reduce((a, b) => a + b) / MAP.length / 255;
  const shader = `#version 300 es
    precision highp float;
    uniform sampler2D map;
    out vec4 colour;
    ${HEX_TILING_GLSL}
    void main() {
      vec2 st = (gl_FragCoord.xy / ${SIDE.toFixed(1)} - 0.5) * ${SPAN.toFixed(1)};
      colour = vec4(tiledTexture(map, st, vec4(${mean.toFixed(8)})).rgb, 1.0);
    }`;
  const page = await browser.newPage();
  const drawn = await page.evaluate(
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
      const pixels = new Uint8Array(SIDE * SIDE * 4);
      gl.readPixels(0, 0, SIDE, SIDE, gl.RGBA, gl.UNSIGNED_BYTE, pixels);
      return Array.from({ length: SIDE * SIDE }, (_, i) => pixels[i * 4]!);
    },
    { shader, SIDE, MAP },
  );
  if (typeof drawn === 'string') throw new Error(drawn);
  const texel = (u: number, v: number) => MAP[Math.floor((((v % 1) + 1) % 1) * 4) * 4 + Math.floor((((u % 1) + 1) % 1) * 4)]! / 255;
  let differing = 0;
  drawn.forEach((got, i) => {
    const u = (((i % SIDE) + 0.5) / SIDE - 0.5) * SPAN;
    const v = ((Math.floor(i / SIDE) + 0.5) / SIDE - 0.5) * SPAN;
    const patches = patchesAt(u, v);
    const want = blended(patches.map((p) => texel(u + p.u, v + p.v)) as [number, number, number], patches, mean) * 255;
    if (Math.abs(got - want) > 2) differing++;
  });
  // A lookup in f32 may fall on the other side of a texel's border: fewer than one in two hundred.
  expect(differing).toBeLessThan((SIDE * SIDE) / 200);
  await page.close();
});
