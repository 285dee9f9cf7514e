import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { strFromU8, unzipSync } from 'fflate';
import sharp from 'sharp';
import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { develop } from '../../core/image/tone';
import { SCREEN_WHITE } from '../../core/image/white-balance';
import type { PrintSummary, ToPage } from '../../core/project/live';
import type { PrintRequest } from '../../core/render/print';
import { removeFolder, temporaryFolder, type Peer, type RunningServer } from '../testing/running-server';
import { writePicture } from './picture-file';
import { ended, openYard, post, printOf, printsWhen, YARD_ORDER } from './yard';

/** What prints are handed over as: files, read by readers of others. */

const folder = temporaryFolder();
const outside = mkdtempSync(path.join(tmpdir(), 'formats-'));
let server: RunningServer;
let page: Peer<ToPage>;
beforeAll(async () => {
  ({ server, page } = await openYard(folder));
});
afterAll(async () => {
  await server.kill('SIGTERM');
  removeFolder(folder);
  rmSync(outside, { recursive: true });
});

async function printed(extra: Partial<PrintRequest>): Promise<PrintSummary> {
  const response = await post(server, '/api/prints', { ...YARD_ORDER, ...extra });
  expect([response.status, await response.clone().text()]).toEqual([201, expect.any(String)]);
  const { id } = (await response.json()) as { id: string };
  const print = printOf(await printsWhen(page, ended([id])), id);
  expect([print.state, print.fault]).toEqual(['finished', null]);
  return print;
}
async function fileOf({ id }: PrintSummary, name: string): Promise<Buffer> {
  const response = await fetch(`${server.url}/api/prints/${id}/${name}`);
  expect(response.status).toBe(200);
  return Buffer.from(await response.arrayBuffer());
}
const { width, height } = YARD_ORDER;
const kept = (name: string, bytes: Uint8Array): string => {
  const file = path.join(outside, name);
  writeFileSync(file, bytes);
  return file;
};
interface Light {
  width: number;
  height: number;
  data: Float32Array;
}
const readExr = (bytes: Uint8Array) => new EXRLoader().setDataType(FloatType).parse(bytes.slice().buffer) as Light;

describe('a picture', () => {
  it('is a file of the format that is asked for', async () => {
    for (const [format, depth, kind] of [['png16', 'ushort', 'png'], ['jpeg', 'uchar', 'jpeg'], ['webp', 'uchar', 'webp']] as const) {
      const print = await printed({ format });
      const metadata = await sharp(await fileOf(print, 'picture')).metadata();
      expect(metadata).toMatchObject({ format: kind, depth, width, height });
      expect(metadata.xmpAsString).toContain('<dp:Samples>32<');
      expect(metadata.icc!.toString('latin1').replaceAll('\0', '')).toMatch(/sRGB/i);
    }
  }); // prettier-ignore

  it('in OpenEXR holds the light, which developed is the PNG', async () => {
    const [light, png] = [readExr(await fileOf(await printed({ format: 'exr' }), 'picture')), await sharp(await fileOf(await printed({}), 'picture')).removeAlpha().raw().toBuffer()];
    expect([light.width, light.height]).toEqual([width, height]);
    // The loader's rows run from the bottom up.
    const line = width * 4;
    const upright = Float32Array.from({ length: light.data.length }, (_, i) => light.data[(height - 1 - Math.floor(i / line)) * line + (i % line)]!);
    const developed = new Uint8Array(width * height * 4);
    develop(upright, width, { ev100: 13, white: SCREEN_WHITE }, developed);
    // Halves round by a two-thousandth, which is a step at most.
    for (let i = 0; i < width * height; i++) for (let c = 0; c < 3; c++) expect(Math.abs(developed[i * 4 + c]! - png[i * 3 + c]!)).toBeLessThanOrEqual(1);
  }); // prettier-ignore

  it('in OpenEXR holds light of any strength: the sun mirrored by a pane', async () => {
    const file = path.join(outside, 'bright.exr');
    const picture = { radiance: Float32Array.of(1.6e9, 70_000, 0.001, 1), width: 1, height: 1, development: { ev100: 13, white: SCREEN_WHITE }, metadata: {} }; // prettier-ignore
    await writePicture('exr', picture, file);
    const { data } = readExr(Uint8Array.from(readFileSync(file)));
    [1.6e9, 70_000, 0.001].forEach((cdM2, c) => { expect(data[c]! / cdM2).toBeCloseTo(1, 5); }); // prettier-ignore
  });

  it('is drawn in lines as SVG and PDF, to scale where it is parallel', async () => {
    const camera = { ...YARD_ORDER.camera, parallelM: 16 };
    const svg = (await fileOf(await printed({ format: 'svg', camera }), 'picture')).toString();
    expect(svg).toContain(`1:20</title>`);
    expect(svg).toContain('width="800.00mm"');
    expect((svg.match(/M[\d.]+ [\d.]+L/g) ?? []).length).toBeGreaterThan(5);
    const pdf = await fileOf(await printed({ format: 'pdf' }), 'picture');
    expect(pdf.subarray(0, 5).toString('latin1')).toBe('%PDF-');
    const refused = await post(server, '/api/prints', { ...YARD_ORDER, format: 'svg', channels: ['depth'] });
    expect([refused.status, await refused.text()]).toEqual([400, expect.stringContaining('A drawing in lines is one whole picture')]);
  });

  it('is shown in the style that is asked for: card has no colour of its own, lines and paper lie over it', async () => {
    const meanOf = async (extra: Partial<PrintRequest>) => {
      const { channels } = await sharp(await fileOf(await printed({ noise: 0.5, ...extra }), 'picture')).stats();
      return channels.slice(0, 3).map(({ mean }) => mean) as [number, number, number];
    };
    const plain = await meanOf({});
    const card = await meanOf({ style: { kind: 'white card', lines: 0, paper: 0 } });
    expect(card[0] + card[1] + card[2]).toBeGreaterThan(plain[0] + plain[1] + plain[2]);
    const drawing = await meanOf({ style: { kind: 'white card', lines: 1, paper: 1 } });
    // Paper and few lines.
    expect(drawing[0]).toBeGreaterThan(200);
    expect(drawing[0]).toBeLessThan(250);
  });

  it('of a region is that piece of the whole, to the bit', async () => {
    const [whole, piece] = [await printed({}), await printed({ region: { left: 18, top: 7, width: 21, height: 16 } })];
    const cut = await sharp(await fileOf(whole, 'picture')).extract({ left: 18, top: 7, width: 21, height: 16 }).removeAlpha().raw().toBuffer();
    const own = await sharp(await fileOf(piece, 'picture')).removeAlpha().raw().toBuffer();
    // The pattern that hides banding begins at the corner of each.
    expect(Math.max(...own.map((value, i) => Math.abs(value - cut[i]!)))).toBeLessThanOrEqual(1);
  }); // prettier-ignore

  it('stops at the noise that is asked for, with fewer samples for more of it', async () => {
    const samplesFor = async (noise: number) => {
      const xmp = (await sharp(await fileOf(await printed({ noise }), 'picture')).metadata()).xmpAsString!;
      return Number(/<dp:Samples>(\d+)</.exec(xmp)![1]);
    };
    const [rough, fine] = [await samplesFor(0.03), await samplesFor(0.015)];
    // Half the noise takes four times the samples; the estimate strays.
    expect(fine / rough).toBeGreaterThan(2.5);
    expect(fine / rough).toBeLessThan(6);
  });

  it('comes with its channels, masks and their legend', async () => {
    const print = await printed({ channels: ['depth', 'position', 'normal', 'colour', 'direct', 'indirect', 'emission', 'elements', 'finishes', 'layers'] });
    const files = unzipSync(await fileOf(print, 'pictures.zip'));
    expect(Object.keys(files).sort()).toEqual(['about.json', 'channels.exr', 'legend of masks.csv', 'mask of elements.png', 'mask of finishes.png', 'mask of layers.png', 'picture.png']);
    const legend = strFromU8(files['legend of masks.csv']!).split('\r\n');
    expect(legend[0]).toBe('mask,colour,name,id,share of the picture');
    const row = legend.find((line) => line.startsWith('elements,') && line.includes('yard/e'))!.split(',');
    const mask = await sharp(files['mask of elements.png']).removeAlpha().raw().toBuffer();
    const middle = (Math.floor(height * 0.9) * width + width / 2) * 3;
    const colour = `#${mask.subarray(middle, middle + 3).toString('hex')}`;
    expect(row[1]).toBe(colour);
    const share = mask.reduce((sum, _, i) => sum + (i % 3 === 0 && `#${mask.subarray(i, i + 3).toString('hex')}` === colour ? 1 : 0), 0) / (width * height);
    expect(share).toBeCloseTo(Number(row[4]), 4);
    if (!existsSync('/usr/bin/exrheader')) return;
    const said = spawnSync('exrheader', [kept('channels.exr', files['channels.exr']!)], { encoding: 'utf8' }).stdout;
    for (const name of ['depth.Z, 32-bit', 'position.X, 32-bit', 'normal.Z, 16-bit', 'colour.R', 'direct.G', 'indirect.B', 'emission.R, 32-bit']) expect(said).toContain(name);
  }); // prettier-ignore
});

describe('an all-round picture', () => {
  const round = { projection: { kind: 'equirectangular' }, width: 128, height: 64 } as const;

  it('says so as viewers read it, and has no seam at its join, denoised too', async () => {
    const print = await printed({ ...round, format: 'jpeg', denoise: true });
    const bytes = await fileOf(print, 'picture');
    if (existsSync('/usr/bin/exiftool')) {
      const said = JSON.parse(spawnSync('exiftool', ['-json', '-XMP-GPano:all', kept('round.jpg', bytes)], { encoding: 'utf8' }).stdout) as object[];
      expect(said[0]).toMatchObject({
        ProjectionType: 'equirectangular', FullPanoWidthPixels: 128, FullPanoHeightPixels: 64, CroppedAreaImageWidthPixels: 128,
        CroppedAreaLeftPixels: 0, UsePanoramaViewer: true,
      });
      // From (6, -7) towards the middle: north-west.
      expect((said[0] as { PoseHeadingDegrees: number }).PoseHeadingDegrees).toBeCloseTo(319.4, 1);
    }
    const light = readExr(await fileOf(await printed({ ...round, format: 'exr', denoise: true }), 'picture'));
    const jump = (a: number, b: number) => {
      let sum = 0;
      for (let y = 0; y < 64; y++) sum += Math.abs(Math.log(light.data[(y * 128 + a) * 4 + 1]! / light.data[(y * 128 + b) * 4 + 1]!));
      return sum / 64;
    };
    const others = Array.from({ length: 60 }, (_, i) => jump(i * 2 + 4, i * 2 + 5)).sort((a, b) => a - b);
    expect(jump(127, 0)).toBeLessThanOrEqual(others[57]!);
  }); // prettier-ignore

  it('for two eyes is one over the other; onto a cube it is six files', async () => {
    const pair = await printed({ projection: { kind: 'equirectangular', eyesM: 0.064 }, width: 128, height: 128 });
    expect(await sharp(await fileOf(pair, 'picture')).metadata()).toMatchObject({ width: 128, height: 128 });
    const cube = await printed({ projection: { kind: 'cube' }, width: 6 * 32, height: 32, name: 'Cube' });
    const files = unzipSync(await fileOf(cube, 'pictures.zip'));
    expect(Object.keys(files)).toEqual(['about.json', ...['front', 'right', 'back', 'left', 'up', 'down'].map((face) => `${face}.png`)]);
    expect(await sharp(files['front.png']).metadata()).toMatchObject({ width: 32, height: 32 });
    // Exposed and balanced together, denoised with their neighbours: along the edge that front and right share they go on into each other.
    const open = unzipSync(
      await fileOf(
        await printed({
          projection: { kind: 'cube' },
          width: 6 * 32,
          height: 32,
          name: 'Open',
          ev100: undefined,
          white: undefined,
          denoise: true,
        }),
        'pictures.zip',
      ),
    );
    const told = await Promise.all(
      ['front', 'right', 'up', 'down'].map(
        async (face) =>
          /<dp:ExposureEv100>[^<]+<.*<dp:WhiteKelvin>\d+</s.exec((await sharp(open[`${face}.png`]).metadata()).xmpAsString!)![0],
      ),
    );
    expect(new Set(told).size).toBe(1);
    const [front, right] = await Promise.all(
      ['front', 'right'].map((face) => sharp(open[`${face}.png`]).removeAlpha().greyscale().raw().toBuffer()),
    );
    const steps = Array.from({ length: 32 }, (_, y) => Math.abs(front![y * 32 + 31]! - right![y * 32]!)).sort((a, b) => a - b);
    const within = Array.from({ length: 32 }, (_, y) => Math.abs(front![y * 32 + 30]! - front![y * 32 + 31]!)).sort((a, b) => a - b);
    expect(steps[24]!).toBeLessThanOrEqual(within[24]! + 4);
  });

  it('for two eyes finds its own white as one for a single eye does', async () => {
    const warmth = async (extra: Partial<PrintRequest>) => {
      const { channels } = await sharp(await fileOf(await printed({ ...extra, ev100: undefined, white: undefined }), 'picture')).stats();
      return channels[0]!.mean / channels[2]!.mean;
    };
    const [single, pair] = [await warmth({ ...round, width: 96, height: 48 }), await warmth({ projection: { kind: 'equirectangular', eyesM: 0.064 }, width: 96, height: 96 })];
    expect(Math.abs(pair / single - 1)).toBeLessThan(0.01);
  }); // prettier-ignore

  it('of another shape is refused in words', async () => {
    const response = await post(server, '/api/prints', { ...YARD_ORDER, ...round, height: 50 });
    expect([response.status, ((await response.json()) as { message: string }).message]).toEqual([400, expect.stringContaining('has a height of 64')]);
  }); // prettier-ignore
});

describe('a film', () => {
  const stops = [YARD_ORDER.camera, { ...YARD_ORDER.camera }];
  const still = { stops, seconds: 0.32, eased: false, framesPerSecond: 25 } as const;

  it.skipIf(!existsSync('/usr/bin/ffmpeg'))('is what ffprobe says it is', async () => {
    for (const [film, codec] of [['mp4', 'h264'], ['webm', 'vp9']] as const) {
      const print = await printed({ walk: { ...still, seconds: 0.2, stops: [...stops], film }, width: 50, height: 27 });
      const file = kept(`film.${film}`, await fileOf(print, 'film'));
      const said = JSON.parse(spawnSync('ffprobe', ['-v', 'error', '-show_streams', '-count_frames', '-of', 'json', file], { encoding: 'utf8' }).stdout) as { streams: object[] };
      expect(said.streams[0]).toMatchObject({ codec_name: codec, width: 50, height: 26, nb_read_frames: '5', r_frame_rate: '25/1', color_space: 'bt709' });
    }
  }); // prettier-ignore

  it('that is denoised does not boil where nothing moves', async () => {
    const print = await printed({ walk: { ...still, stops: [...stops] }, denoise: true, width: 96, height: 54 });
    const files = unzipSync(await fileOf(print, 'pictures.zip'));
    const frames = await Promise.all(Object.keys(files).filter((name) => name.endsWith('.png')).map((name) => sharp(files[name]).removeAlpha().raw().toBuffer()));
    expect(frames).toHaveLength(8);
    const differences = frames.slice(1).map((frame, i) => frame.reduce((sum, value, k) => sum + Math.abs(value - frames[i]![k]!), 0) / frame.length);
    // From the fourth picture on, steps of 255 in the mean; each picture has noise of its own.
    for (const difference of differences.slice(3)) expect(difference).toBeLessThan(0.5);
    expect(Math.max(...differences)).toBeGreaterThan(0);
  }); // prettier-ignore

  it('of a moving camera is smeared by its shutter', async () => {
    const moving = { ...still, seconds: 0.1, stops: [YARD_ORDER.camera, { ...YARD_ORDER.camera, target: [12, -3, 1] as [number, number, number] }] };
    const sharpness = async (shutterDeg: number) => {
      const files = unzipSync(await fileOf(await printed({ walk: { ...moving, shutterDeg }, width: 96, height: 54, quality: 'proof' }), 'pictures.zip'));
      const { data } = await sharp(files['00002.png']).greyscale().raw().toBuffer({ resolveWithObject: true });
      let steepest = 0;
      for (let y = 15; y < 38; y++) for (let x = 1; x < 96; x++) steepest = Math.max(steepest, Math.abs(data[y * 96 + x]! - data[y * 96 + x - 1]!));
      return steepest;
    };
    expect(await sharpness(360)).toBeLessThan((await sharpness(0)) * 0.7);
  }); // prettier-ignore
});
