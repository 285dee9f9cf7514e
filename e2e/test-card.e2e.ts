import { createHash } from 'node:crypto';
import { deflateRawSync } from 'node:zlib';
import type { Browser, Page } from 'playwright-core';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { FINISHES } from '../core/finish/library';
import { encodeMesh, type Mesh } from '../core/geometry/mesh';
import { MeshBuilder } from '../core/geometry/shapes';
import type { Camera } from '../core/model/schema';
import {
  openAuthor,
  openPage,
  removeFolder,
  say,
  startServer,
  temporaryFolder,
  type RunningServer,
} from '../server/testing/running-server';
import { draftAlone, drawnByGraphics, leaveBrowser, newPage, openBrowser, refined, refineTo } from './stage';

/** Every finish that ships on a board and a ball, as the draft draws it and as the kernel renders it, side by side. */

const COLUMNS = 16;
/** Finishes that came later stand at the right of the others, which are so seen as they were. */
const LATER = ['grass-tall', 'clover'];
const EARLIER = FINISHES.map(({ id }) => id).filter((id) => !LATER.includes(id));
const ROWS = Math.ceil(EARLIER.length / COLUMNS);
const BOARD_M = 0.86;
const BALL_M = 0.2;
const CAMERA: Camera = {
  position: [COLUMNS / 2 - 0.5, -15.2, ROWS / 2 - 0.5],
  target: [COLUMNS / 2 - 0.5, 0, ROWS / 2 - 0.5],
  focalMm: 30,
};

const board = new MeshBuilder().box([-BOARD_M / 2, 0, -BOARD_M / 2], [BOARD_M / 2, 0.03, BOARD_M / 2]).build();
const ball = new MeshBuilder().revolve([0, 0, 0], Array.from({ length: 33 }, (_, i): [number, number] => {
  const a = -Math.PI / 2 + (Math.PI * i) / 32;
  return [i % 32 === 0 ? 0 : Math.cos(a) * BALL_M, Math.sin(a) * BALL_M];
}), 48).build(); // prettier-ignore
const placeOf = (i: number) => {
  const rank = EARLIER.indexOf(FINISHES[i]!.id);
  if (rank < 0) return { x: COLUMNS, z: ROWS - 1 - LATER.indexOf(FINISHES[i]!.id) };
  return { x: rank % COLUMNS, z: ROWS - 1 - Math.floor(rank / COLUMNS) };
};

let server: RunningServer;
let browser: Browser;
/** One page for all scenes: another would make its shaders anew. */
let page: Page;
const folder = temporaryFolder();
beforeAll(async () => {
  server = await startServer(folder);
  browser = await openBrowser();
  page = await newPage(browser, { width: 1024, height: 800, pixels: 0.5, samples: 1 });
  await drawnByGraphics(page);
  await page.goto(`${server.url}/#source`);
});
afterAll(async () => {
  await leaveBrowser(browser);
  await server.kill('SIGTERM');
  removeFolder(folder);
});

interface Placed {
  mesh: Mesh;
  finish: string;
  at: readonly number[];
}

/** What a source material says of itself; it then has no finish. Its pictures are PNG files. */
type Own = Readonly<Record<string, { look: object; texture: Readonly<Record<string, Buffer>>; lay?: object }>>;
const hashOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

interface Scene {
  things: readonly Placed[];
  camera: Camera;
  own?: Own;
}

/** Up in the sky, where there is nothing to see. */
const AWAY: Camera = { position: [0, 0, 900], target: [0, 1, 900], focalMm: 30 };
const SOURCE = 'cards';

const eyeAt = ({ position }: Camera) =>
  page
    .locator(`[data-testid=working-picture][data-eye="${position.map((metres) => metres.toFixed(2)).join(' ')}"]`)
    .waitFor({ state: 'attached' });

/** Links a scene, each thing with its finish or its material's own looks. What the page shows from its camera is all of it: it is led there last. */
async function link({ things, camera, own = {} }: Scene): Promise<void> {
  const author = await openAuthor(server);
  author.send({ type: 'hello', protocol: 1, token: server.token, source: { id: SOURCE, name: 'Cards', tool: 'Test' } });
  const { sequence } = await author.next('welcome');
  const blobs = new Map([...new Set(things.map(({ mesh }) => mesh))].map((mesh) => [mesh, encodeMesh(mesh)]));
  const hashes = new Map([...blobs].map(([mesh, bytes]) => [mesh, hashOf(bytes)]));
  const bytes = new Map([...blobs.values(), ...Object.values(own).flatMap(({ texture }) => Object.values(texture))].map((b) => [hashOf(b), b])); // prettier-ignore
  author.send({ type: 'offer', blobs: [...bytes.keys()] });
  await author.next('need');
  for (const [hash, blob] of bytes) author.socket.send(Buffer.concat([Buffer.from(hash, 'hex'), Buffer.from([1]), deflateRawSync(blob)]));
  const ownLook = (id: string) => {
    const { look, texture, lay } = own[id]!;
    const pictures = Object.fromEntries(Object.entries(texture).map(([part, picture]) => [part, hashOf(picture)]));
    return { ...look, texture: { image: null, ...pictures, ...lay, widthM: 1, heightM: 1 } };
  };
  const finishes = [...new Set(things.map(({ finish }) => finish))];
  const change = {
    reset: true,
    materials: finishes.map((id) => ({ id, name: `Sample ${id}`, colour: [0.5, 0.5, 0.5], ...(id in own && ownLook(id)) })),
    elements: things.map(({ mesh, finish, at }, i) => ({
      id: `e${String(i)}`, name: finish, class: 'Furniture', storey: '', layer: 'Cards', option: null, phase: null,
      transform: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, ...at, 1], parts: [{ mesh: hashes.get(mesh)!, material: finish }],
    })),
    camera: AWAY,
  }; // prettier-ignore
  author.send({ type: 'change', sequence: sequence + 1, change });
  await author.next('ack');
  await eyeAt(AWAY);
  const other = await openPage(server);
  const commands = [
    ...finishes.filter((id) => !(id in own)).map((id) => ({ type: 'assign-finish' as const, source: SOURCE, material: id, finish: id })),
    { type: 'set-exposure' as const, mode: 'fixed' as const, ev100: 14 },
    // The cards hang free: light from a ground is no matter of finishes.
    { type: 'lay-ground' as const, ground: 'never' as const },
    { type: 'follow-author' as const, camera: true, time: false },
  ];
  commands.forEach((command, i) => { say(other, { type: 'command', id: `c${String(i)}`, command }); }); // prettier-ignore
  await other.next('changes', (m) => m.reply === `c${String(commands.length - 1)}`);
  other.close();
  author.send({ type: 'change', sequence: sequence + 2, change: { camera } });
  await author.next('ack');
  author.close();
  await eyeAt(camera);
}

/** Mean linear colours of the board and of the ball of every finish, as the page shows them. */
async function cards(): Promise<{ board: number[]; ball: number[] }[]> {
  const box = (await page.getByTestId('picture').boundingBox())!;
  const { data, info } = await sharp(await page.screenshot({ clip: box })).removeAlpha().raw().toBuffer({ resolveWithObject: true }); // prettier-ignore
  const half = 18 / CAMERA.focalMm;
  const mean = (x: number, y: number, z: number, radiusM: number) => {
    const depth = y - CAMERA.position[1];
    const perM = info.width / (2 * half * depth);
    const [cx, cy, r] = [info.width / 2 + (x - CAMERA.position[0]) * perM, info.height / 2 - (z - CAMERA.position[2]) * perM, radiusM * perM];
    const sum = [0, 0, 0];
    let n = 0;
    for (let j = Math.round(cy - r); j <= cy + r; j++)
      for (let i = Math.round(cx - r); i <= cx + r; i++) {
        for (let k = 0; k < 3; k++) sum[k]! += ((data[(j * info.width + i) * 3 + k]! / 255) ** 2.2);
        n++;
      }
    return sum.map((c) => c / n);
  }; // prettier-ignore
  return FINISHES.map((_, i) => {
    const { x, z } = placeOf(i);
    return { board: mean(x - 0.17, 0, z + 0.17, 0.16), ball: mean(x + 0.2, -0.3 - BALL_M * 0.8, z - 0.2, 0.09) };
  });
}

/** Mean linear colours of the picture in blocks. */
async function blocks(): Promise<number[][]> {
  const box = (await page.getByTestId('picture').boundingBox())!;
  const { data } = await sharp(await page.screenshot({ clip: box })).removeAlpha().resize(48, 27, { fit: 'fill' }).raw().toBuffer({ resolveWithObject: true }); // prettier-ignore
  return Array.from({ length: 48 * 27 }, (_, i) => [0, 1, 2].map((k) => (data[i * 3 + k]! / 255) ** 2.2));
}

/** What is measured in the kernel's picture of a scene, after so many samples, and in the draft; the picture is 432 pixels narrower than the page. */
async function bothPictures<T>(scene: Scene, samples: number, measure: () => Promise<T>, width = 1024): Promise<[T, T]> {
  await page.setViewportSize({ width, height: 800 });
  await refineTo(page, samples);
  await link(scene);
  await refined(page, samples);
  const printed = await measure();
  const cover = await draftAlone(page);
  const drafted = await measure();
  await cover.evaluate((style) => { style.parentNode!.removeChild(style); }); // prettier-ignore
  return [printed, drafted];
}

const luminance = ([r, g, b]: readonly number[]) => 0.2126 * r! + 0.7152 * g! + 0.0722 * b!;
/** How much lighter or darker, on the eye's scale of 0 to 100 (CIE 1976 L*). */
const lightness = (colour: readonly number[]) => 116 * Math.cbrt(Math.max(0.009, luminance(colour))) - 16;
const tint = (colour: readonly number[]) => colour.map((c) => c / (colour[0]! + colour[1]! + colour[2]! + 1e-6));

it('the draft shows every finish as the kernel does, within what a draft leaves out', async () => {
  const cardsOf = (id: string, i: number) => {
    const { x, z } = placeOf(i);
    return [{ mesh: board, finish: id, at: [x, 0, z] }, { mesh: ball, finish: id, at: [x + 0.2, -0.3, z - 0.2] }];
  }; // prettier-ignore
  const things = FINISHES.flatMap(({ id }, i) => cardsOf(id, i));
  const [printed, drafted] = await bothPictures({ things, camera: CAMERA }, 6, cards, 1280);
  const rows = FINISHES.flatMap((finish, i) =>
    (['board', 'ball'] as const).map((part) => {
      const [draft, print] = [drafted[i]![part], printed[i]![part]];
      const off = Math.max(...tint(draft).map((share, k) => Math.abs(share - tint(print)[k]!)));
      return { name: `${finish.id} ${part}`, family: finish.family, lighter: lightness(draft) - lightness(print), off };
    }),
  );
  const sorted = (value: (row: (typeof rows)[number]) => number) => rows.map(value).sort((a, b) => a - b);
  const at = (list: number[], share: number) => list[Math.floor((list.length - 1) * share)]!;
  const lighter = sorted((row) => Math.abs(row.lighter));
  const off = sorted((row) => row.off);
  console.log(`Draft against print over ${String(rows.length)} boards and balls: lightness differs by ${at(lighter, 0.5).toFixed(1)} (median), ${at(lighter, 0.9).toFixed(1)} (nine in ten), ${at(lighter, 1).toFixed(1)} (most) of 100; tint by ${at(off, 0.5).toFixed(3)}, ${at(off, 0.9).toFixed(3)}, ${at(off, 1).toFixed(3)}.`); // prettier-ignore
  const [worst] = [...rows].sort((a, b) => Math.abs(b.lighter) - Math.abs(a.lighter));
  // The draft without a GPU has no shine on matt surfaces, and clear bodies are panes of one shade in it.
  expect(at(lighter, 0.5)).toBeLessThan(3.5);
  expect(at(lighter, 0.9)).toBeLessThan(12);
  expect(at(lighter, 1), worst!.name).toBeLessThan(27);
  expect(at(off, 0.5)).toBeLessThan(0.015);
  expect(at(off, 0.9)).toBeLessThan(0.07);
});

it('clear bodies tint the sun alike in the draft and in the kernel’s picture', async () => {
  const flat = (size: readonly [number, number, number]) => new MeshBuilder().box([-size[0] / 2, -size[1] / 2, 0], [size[0] / 2, size[1] / 2, size[2]]).build(); // prettier-ignore
  const pane = flat([2, 2, 0.02]);
  const things = [
    { mesh: flat([14, 14, 0.1]), finish: 'plaster', at: [0, 0, -0.1] },
    { mesh: pane, finish: 'glass-bronze', at: [-3, 0, 1.6] },
    { mesh: pane, finish: 'glass-green', at: [0, 0, 1.6] },
    { mesh: flat([2, 2, 1]), finish: 'water-pool', at: [3, 0, 0.9] },
  ];
  const camera: Camera = { position: [0, -7, 11], target: [0, 1, 0], focalMm: 30 };
  const [printed, drafted] = await bothPictures({ things, camera }, 5, blocks);
  // The ground in the sun: the most usual colour there is.
  const ground = tint([...printed].sort((a, b) => luminance(a) - luminance(b))[Math.floor(printed.length * 0.7)]!);
  const away = (colour: readonly number[], from: readonly number[]) => Math.max(...tint(colour).map((c, k) => Math.abs(c - from[k]!)));
  const coloured = printed.flatMap((colour, i) => (away(colour, ground) > 0.025 ? [i] : []));
  const apart = coloured.map((i) => away(drafted[i]!, tint(printed[i]!))).sort((a, b) => a - b);
  console.log(`Tinted blocks: ${String(coloured.length)}, by ${Math.max(...coloured.map((i) => away(printed[i]!, ground))).toFixed(3)} at most; draft against kernel ${apart[apart.length >> 1]!.toFixed(4)} (median).`); // prettier-ignore
  expect(coloured.length).toBeGreaterThan(40);
  expect(apart[apart.length >> 1]!).toBeLessThan(0.01);
});

it('an estuary is of one colour in the draft and in the kernel’s picture, near and far', async () => {
  const sheet = (z: number): Mesh => ({ positions: new Float32Array([-300, -100, z, 300, -100, z, 300, 500, z, -300, 500, z]), indices: new Uint32Array([0, 1, 2, 0, 2, 3]) }); // prettier-ignore
  const things = [
    { mesh: sheet(-3), finish: 'gravel', at: [0, 0, 0] },
    { mesh: sheet(0), finish: 'water', at: [0, 0, 0] },
  ];
  const camera: Camera = { position: [0, -40, 5], target: [0, 0, 0.5], focalMm: 28 };
  const [printed, drafted] = await bothPictures({ things, camera }, 4, blocks);
  // Rows of blocks below the horizon, each by its mean.
  const rows = (all: number[][]) => Array.from({ length: 27 }, (_, j) => [0, 1, 2].map((k) => all.slice(j * 48, j * 48 + 48).reduce((sum, c) => sum + c[k]!, 0) / 48)); // prettier-ignore
  const [kernel, draft] = [rows(printed).slice(14), rows(drafted).slice(14)];
  const lighter = kernel.map((colour, i) => lightness(draft[i]!) - lightness(colour));
  const off = kernel.map((colour, i) => Math.max(...tint(colour).map((c, k) => Math.abs(c - tint(draft[i]!)[k]!))));
  console.log(
    `Water from far to near: lighter by ${lighter.map((l) => l.toFixed(1)).join(' ')}; tint off by ${off.map((o) => o.toFixed(3)).join(' ')}`,
  );
  const apart = lighter.map(Math.abs).sort((a, b) => a - b);
  // As of other finishes.
  expect(apart[apart.length >> 1]!).toBeLessThan(3.5);
  expect(apart.at(-1)!).toBeLessThan(12);
  expect(Math.max(...off)).toBeLessThan(0.02);
});

it('edges that are near are rounded alike in the draft and in the kernel’s picture', async () => {
  const block = new MeshBuilder().box([-0.2, -0.2, -0.2], [0.2, 0.2, 0.2]).build();
  const things = [{ mesh: block, finish: 'concrete', at: [0, 0, 0] }];
  const camera: Camera = { position: [-0.5, -0.6, 0.12], target: [-0.2, -0.2, 0.02], focalMm: 60 };
  // Mean lightness of the columns of the picture; the upright edge stands in the middle.
  const columns = async () => {
    const { data, info } = await sharp(await page.screenshot({ clip: (await page.getByTestId('picture').boundingBox())! })).greyscale().resize({ height: 1, fit: 'fill' }).raw().toBuffer({ resolveWithObject: true }); // prettier-ignore
    return { light: [...data], edge: Math.round(info.width / 2), scale: info.width / 848 };
  };
  const shine = ({ light, edge, scale }: Awaited<ReturnType<typeof columns>>) => {
    const near = light.slice(edge - Math.round(12 * scale), edge + Math.round(12 * scale));
    const face = light.slice(edge + Math.round(30 * scale), edge + Math.round(70 * scale));
    return Math.max(...near) - face.reduce((sum, l) => sum + l, 0) / face.length;
  };
  const [printed, drafted] = (await bothPictures({ things, camera }, 3, columns)).map(shine) as [number, number];
  // The rounding turns towards the sun between two faces that do not.
  expect(printed).toBeGreaterThan(5);
  expect(Math.abs(drafted / printed - 1)).toBeLessThan(0.3);
});

/** A picture of 64 texels in halves of two colours. */
const half = (left: string, right: string) =>
  sharp({ create: { width: 64, height: 64, channels: 4, background: left } })
    .composite([{ input: { create: { width: 32, height: 64, channels: 4, background: right } }, left: 32, top: 0, blend: 'over' }])
    .png()
    .toBuffer();
const corners = new Float32Array([-0.5, -0.5, 0, 0.5, -0.5, 0, 0.5, 0.5, 0, -0.5, 0.5, 0]);
const tile: Mesh = { positions: corners, indices: new Uint32Array([0, 1, 2, 0, 2, 3]) };

/** Tiles of a metre in a row have what they say of themselves: the right half has to differ from the left one alike in both pictures. */
async function expectAlikeInPlaces(own: Own, mesh: Mesh): Promise<void> {
  const names = Object.keys(own);
  const middle = (names.length - 1) * 0.55;
  const things = [
    { mesh: new MeshBuilder().box([-9, -9, -1], [9, 9, -0.9]).build(), finish: 'paint-black', at: [0, 0, 0] },
    ...names.map((finish, i) => ({ mesh, finish, at: [i * 1.1 - middle, 0, 0] })),
  ];
  const camera: Camera = { position: [0, -0.8, 10], target: [0, 0, 0], focalMm: 35 };
  const lights = async () => {
    const { data, info } = await sharp(await page.screenshot({ clip: (await page.getByTestId('picture').boundingBox())! })).greyscale().raw().toBuffer({ resolveWithObject: true }); // prettier-ignore
    const perM = (info.width * 35) / 36 / Math.hypot(10, 0.8);
    const at = (x: number) => {
      const cx = Math.round(info.width / 2 + x * perM);
      const [w, h] = [Math.round(perM * 0.14), Math.round(perM * 0.24)];
      let sum = 0;
      for (let j = -h; j < h; j++) for (let i = -w; i < w; i++) sum += data[(Math.floor(info.height / 2) + j) * info.width + cx + i]!;
      return sum / (4 * w * h);
    };
    return names.map((_, i) => [at(i * 1.1 - middle - 0.25), at(i * 1.1 - middle + 0.25)] as const);
  };
  const [printed, drafted] = await bothPictures({ things, camera, own }, 2, lights);
  console.log(names.map((name, i) => `${name} ${JSON.stringify([printed[i], drafted[i]])}`).join('; '));
  names.forEach((name, i) => {
    const [kernel, draft] = [printed[i]![1] - printed[i]![0], drafted[i]![1] - drafted[i]![0]];
    expect(Math.abs(kernel), name).toBeGreaterThan(2);
    expect(Math.sign(draft), name).toBe(Math.sign(kernel));
    expect(Math.abs(draft - kernel), name).toBeLessThan(2 + Math.abs(kernel) * 0.3);
  });
}

it('what pictures of a material tell in places is seen in the same places in both', async () => {
  // Over one metre; tiles have their middle at its edge.
  const halves = await half('#000', '#fff');
  const leaning = await half('rgb(128, 128, 255)', 'rgb(128, 85, 248)');
  // Alpha tells: nothing left, all right.
  const alphas = await half('rgba(255, 255, 255, 0)', 'rgb(255, 255, 255)');
  const own: Own = {
    screen: { look: { colour: [0, 0, 0], roughness: 0.9, emissionCdM2: 4000, emissionColour: [1, 1, 1] }, texture: { emission: halves } },
    varnish: {
      look: { colour: [0.05, 0.05, 0.05], roughness: 0.9, clearCoat: 1, clearCoatRoughness: 0.3 },
      texture: { clearCoat: halves },
    },
    window: { look: { colour: [0.8, 0.8, 0.8], roughness: 0, transmission: 1 }, texture: { transmission: halves } },
    satin: {
      look: { colour: [0.02, 0.02, 0.02], roughness: 0.9, specular: 0, clearCoat: 1, clearCoatRoughness: 1 },
      texture: { clearCoatRoughness: halves },
    },
    tilted: {
      look: { colour: [0.02, 0.02, 0.02], roughness: 0.9, clearCoat: 1, clearCoatRoughness: 0.45 },
      texture: { clearCoatNormal: leaning },
    },
    dulled: { look: { colour: [0, 0, 0], roughness: 0.3 }, texture: { specular: alphas } },
    shade: {
      look: { colour: [0.6, 0.6, 0.6], roughness: 0.9, diffuseTransmission: 1, diffuseTransmissionColour: [1, 1, 1] },
      texture: { diffuseTransmission: alphas },
    },
    velvet: {
      look: { colour: [0, 0, 0], roughness: 1, specular: 0, sheen: 1, sheenRoughness: 0.6 },
      texture: { sheen: await half('#000', '#fd6') },
    },
  };
  await expectAlikeInPlaces(own, tile);
});

it('pictures that lie by other coordinates than the first are seen where these say', async () => {
  const white = await half('#fff', '#fff');
  const halves = await half('#000', '#fff');
  // By the first set they would differ from below to above instead.
  const u = (k: 0 | 1) => [0, 1, 2, 3].flatMap((i) => [corners[i * 3 + k]! + 0.5, corners[i * 3 + 1 - k]! + 0.5]);
  const mesh: Mesh = { ...tile, pictureUvs: new Float32Array(u(1)), furtherUvs: [new Float32Array(u(1)), new Float32Array(u(0))] };
  const by = (part: string) => ({ asLaid: true, sets: { [part]: 2 } });
  const matt = { colour: [0.6, 0.6, 0.6], roughness: 0.9 };
  const own: Own = {
    hollow: { look: matt, texture: { image: white, occlusion: halves }, lay: by('occlusion') },
    screen: { look: { ...matt, colour: [0, 0, 0], emissionCdM2: 4000, emissionColour: [1, 1, 1] }, texture: { image: white, emission: halves }, lay: by('emission') },
    weave: { look: matt, texture: { image: white, normal: await half('rgb(128, 128, 255)', 'rgb(128, 35, 215)') }, lay: by('normal') },
    polished: { look: { colour: [0.9, 0.9, 0.9], roughness: 1, metalness: 1 }, texture: { image: white, roughnessMetalness: await half('rgb(0, 130, 0)', 'rgb(0, 130, 255)') }, lay: by('roughnessMetalness') },
    varnish: { look: { colour: [0.02, 0.02, 0.02], roughness: 0.9, specular: 0, clearCoat: 1, clearCoatRoughness: 0.3 }, texture: { image: white, clearCoat: halves }, lay: by('clearCoat') },
    flakes: {
      look: { colour: [0.02, 0.02, 0.02], roughness: 0.9, clearCoat: 1, clearCoatRoughness: 0.45 },
      texture: { image: white, clearCoatNormal: await half('rgb(128, 128, 255)', 'rgb(128, 85, 248)') },
      lay: by('clearCoatNormal'),
    },
    shade: {
      look: { ...matt, diffuseTransmission: 1, diffuseTransmissionColour: [1, 1, 1] },
      texture: { image: white, diffuseTransmission: await half('rgba(255, 255, 255, 0)', 'rgb(255, 255, 255)') },
      lay: by('diffuseTransmission'),
    },
    velvet: { look: { colour: [0, 0, 0], roughness: 1, specular: 0, sheen: 1, sheenRoughness: 0.6 }, texture: { image: white, sheen: halves }, lay: by('sheen') },
    brushed: {
      look: { colour: [0.7, 0.7, 0.7], roughness: 0.35, metalness: 1, anisotropy: 1 },
      // Across one way on the left, and the other way on the right.
      texture: { image: white, brushing: await half('rgb(218, 218, 255)', 'rgb(218, 38, 255)') },
      lay: by('brushing'),
    },
  }; // prettier-ignore
  await expectAlikeInPlaces(own, mesh);
});
