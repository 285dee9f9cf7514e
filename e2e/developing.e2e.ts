import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Browser } from 'playwright-core';
import { MOST_SPREAD } from '../core/image/bloom';
import { parseCube, type ColourCube } from '../core/image/colour-cube';
import { PLAIN_GRADING, type Grading } from '../core/image/grading';
import { develop, DEVELOPING_GLSL } from '../core/image/tone';
import { balanceMatrix, whiteOf } from '../core/image/white-balance';
import { leaveBrowser, openBrowser } from './stage';

/** The draft's development against that of the refined picture and the print, pixel by pixel, on a page with nothing else on it. */

let browser: Browser;
beforeAll(async () => {
  browser = await openBrowser();
});
afterAll(async () => {
  await leaveBrowser(browser);
});

const [WIDTH, HEIGHT] = [128, 64];
/** Linear light from near black to burnt out, of many colours, with a lamp in it; 1 is white. */
const PICTURE = Float32Array.from({ length: WIDTH * HEIGHT * 4 }, (_, i) => {
  const [x, y] = [(i >> 2) % WIDTH, Math.floor((i >> 2) / WIDTH)];
  if (i % 4 === 3) return 1;
  if (Math.hypot(x - 90, y - 20) < 5) return 60;
  const hue = [1, 0.35 + 0.6 * (y / HEIGHT), 0.2 + 0.8 * ((x * 7) % WIDTH / WIDTH)][i % 4]!; // prettier-ignore
  return hue * 2 ** ((x / WIDTH) * 14 - 10);
});
const WHITE = whiteOf({ kelvin: 4200, tint: 6 });

async function drawn(grading: Grading, cube?: ColourCube): Promise<number[]> {
  const shader = `#version 300 es
    precision highp float;
    precision highp sampler3D;
    #define texture2D texture
    ${DEVELOPING_GLSL}
    out vec4 colour;
    void main() { colour = vec4(developed(gl_FragCoord.xy / vec2(${WIDTH.toFixed(1)}, ${HEIGHT.toFixed(1)})), 1.0); }`;
  const page = await browser.newPage();
  const pixels = await page.evaluate(
    ({ shader, WIDTH, HEIGHT, picture, balance, grading, spread, cube }) => {
      const canvas = Object.assign(document.createElement('canvas'), { width: WIDTH, height: HEIGHT });
      const gl = canvas.getContext('webgl2')!;
      gl.getExtension('OES_texture_float_linear');
      gl.getExtension('EXT_color_buffer_float');
      const program = gl.createProgram();
      for (const [type, text] of [
        [gl.VERTEX_SHADER, '#version 300 es\nin vec2 place; void main() { gl_Position = vec4(place, 0.0, 1.0); }'],
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
      const at = (name: string) => gl.getUniformLocation(program, name);
      const alpha = (values: number[]) => Float32Array.from({ length: (values.length / 3) * 4 }, (_, i) => (i % 4 === 3 ? 1 : values[(i >> 2) * 3 + (i % 4)]!));
      gl.activeTexture(gl.TEXTURE0);
      gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA16F, WIDTH, HEIGHT, 0, gl.RGBA, gl.FLOAT, Float32Array.from(picture));
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR_MIPMAP_LINEAR);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE);
      gl.generateMipmap(gl.TEXTURE_2D);
      gl.uniform1i(at('picture'), 0);
      gl.activeTexture(gl.TEXTURE1);
      gl.bindTexture(gl.TEXTURE_3D, gl.createTexture());
      const solid = cube?.kind === 'cube';
      const size = solid ? cube.size : 2;
      gl.texImage3D(gl.TEXTURE_3D, 0, gl.RGBA32F, size, size, size, 0, gl.RGBA, gl.FLOAT, alpha(solid ? cube.values : new Array<number>(24).fill(0)));
      gl.texParameteri(gl.TEXTURE_3D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
      gl.texParameteri(gl.TEXTURE_3D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
      gl.uniform1i(at('cube'), 1);
      gl.activeTexture(gl.TEXTURE2);
      gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
      const curves = cube?.kind === 'curves';
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA32F, curves ? cube.size : 2, 1, 0, gl.RGBA, gl.FLOAT, alpha(curves ? cube.values : new Array<number>(6).fill(0)));
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
      gl.uniform1i(at('curves'), 2);
      gl.uniform2f(at('size'), WIDTH, HEIGHT);
      gl.uniformMatrix3fv(at('balance'), true, balance);
      gl.uniform1f(at('bloom'), grading.bloom * spread);
      gl.uniform3f(at('tones'), grading.contrast, grading.highlights, grading.shadows);
      gl.uniform1f(at('saturation'), grading.saturation);
      gl.uniform1f(at('vignette'), grading.vignette);
      gl.uniform1i(at('filmic'), Number(grading.curve === 'filmic'));
      gl.uniform1i(at('cubeSize'), size);
      gl.uniform1i(at('curveSize'), curves ? cube.size : 0);
      gl.uniform3f(at('cubeLeast'), 0, 0, 0);
      gl.uniform3f(at('cubeMost'), 1, 1, 1);
      gl.uniform1f(at('lookStrength'), cube ? grading.look!.strength : 0);
      gl.drawArrays(gl.TRIANGLES, 0, 3);
      const out = new Uint8Array(WIDTH * HEIGHT * 4);
      gl.readPixels(0, 0, WIDTH, HEIGHT, gl.RGBA, gl.UNSIGNED_BYTE, out);
      return [...out];
    },
    {
      shader, WIDTH, HEIGHT, grading, picture: [...PICTURE], balance: balanceMatrix(WHITE), spread: MOST_SPREAD,
      cube: cube && { kind: cube.kind, size: cube.size, values: [...cube.values] },
    },
  ); // prettier-ignore
  await page.close();
  if (typeof pixels === 'string') throw new Error(pixels);
  return pixels;
}

/** Steps of 255 that most pixels, and all, differ by. */
async function differences(change: Partial<Grading>, text?: string): Promise<{ most: number; all: number }> {
  const grading: Grading = { ...PLAIN_GRADING, ...change, ...(text && { look: { id: 'look', strength: 0.8 } }) };
  const cube = text === undefined ? undefined : parseCube(text);
  if (typeof cube === 'string') throw new Error(cube);
  const out = new Uint8Array(WIDTH * HEIGHT * 4);
  // At this exposure 1 is shown white.
  develop(PICTURE, WIDTH, { ev100: Math.log2(0.18 / 0.125), white: WHITE, grading, cube }, out);
  const got = await drawn(grading, cube);
  const off = [...out].map((value, i) => Math.abs(value - got[i]!)).sort((a, b) => a - b);
  return { most: off[Math.floor(off.length * 0.99)]!, all: off.at(-1)! };
}

const CUBE = `LUT_3D_SIZE 3\n${Array.from({ length: 27 }, (_, i) => [i % 3, Math.floor(i / 3) % 3, Math.floor(i / 9)].map((n, c) => ((n / 2) ** (0.7 + 0.3 * c)).toFixed(5)).join(' ')).join('\n')}`;
const CURVES = 'LUT_1D_SIZE 4\n0 0.1 0\n0.2 0.4 0.5\n0.7 0.6 0.8\n1 0.9 1';

it.each<[string, Partial<Grading>, string?]>([
  ['plainly', {}],
  ['by the filmic curve', { curve: 'filmic' }],
  ['with other tones', { contrast: 0.3, highlights: -0.6, shadows: 0.5 }],
  ['with other colours and a vignette', { saturation: -0.4, vignette: 0.7 }],
  ['through a cube of colours', { contrast: -0.2 }, CUBE],
  ['through curves', {}, CURVES],
])('a picture is developed alike for the draft and the print: %s', async (_, change, cube) => {
  const { most, all } = await differences(change, cube);
  // Half floats, dither and rounding.
  expect(most).toBeLessThanOrEqual(1);
  expect(all).toBeLessThanOrEqual(3);
});

it('bloom is alike in the draft and the print, but for how each takes its means', async () => {
  const { most, all } = await differences({ bloom: 1 });
  expect(most).toBeLessThanOrEqual(4);
  expect(all).toBeLessThanOrEqual(12);
});
