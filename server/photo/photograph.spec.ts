import sharp from 'sharp';
import { expect, it } from 'vitest';
import { readPhotograph, type Photograph } from './photograph';

/** Pictures made here, so that what must come out is known. */

const half = (width: number, height: number) =>
  sharp({ create: { width, height, channels: 3, background: '#204060' } }).composite([
    { input: { create: { width: width / 2, height, channels: 3, background: '#e0c080' } }, left: 0, top: 0 },
  ]);
const read = async (bytes: Buffer) => (await readPhotograph('wall.jpg', bytes)) as Photograph;
const fault = async (bytes: Uint8Array) => ((await readPhotograph('wall.jpg', bytes)) as { fault: string }).fault;
const colourAt = async ({ png }: Photograph, left: number, top: number) =>
  [...(await sharp(png).extract({ left, top, width: 1, height: 1 }).raw().toBuffer())].slice(0, 3);

it('a photograph is turned as its camera held it and kept within bounds', async () => {
  // Orientation 6: the camera was turned; the picture is to be shown turned a quarter clockwise (Exif 2.3, tag 274).
  const turned = await half(200, 100).jpeg({ quality: 100 }).withMetadata({ orientation: 6 }).toBuffer();
  const photo = await read(turned);
  expect([photo.width, photo.height, photo.remark]).toEqual([100, 200, '']);
  expect((await colourAt(photo, 50, 20))[0]).toBeGreaterThan(200);
  expect((await colourAt(photo, 50, 180))[0]).toBeLessThan(60);
  const large = await read(await sharp({ create: { width: 5200, height: 1300, channels: 3, background: '#888' } }).jpeg().toBuffer()); // prettier-ignore
  expect([large.width, large.height]).toEqual([2600, 650]);
  expect(large.remark).toBe('It was made smaller, to 2600 × 650 pixels.');
});

it('print colours and other profiles come to sRGB, and that is said', async () => {
  const cmyk = await half(128, 128).toColourspace('cmyk').jpeg({ quality: 95 }).toBuffer();
  const photo = await read(cmyk);
  expect(photo.remark).toContain('CMYK');
  expect((await sharp(photo.png).metadata()).space).toBe('srgb');
  const [red, , blue] = await colourAt(photo, 20, 60);
  expect(red! - blue!).toBeGreaterThan(40);
  // Display P3's (224, 60, 60) lies outside sRGB or at its border: more saturated than the same numbers taken for sRGB.
  const p3 = await sharp({ create: { width: 80, height: 80, channels: 3, background: { r: 200, g: 90, b: 90 } } }).withIccProfile('p3').png().toBuffer(); // prettier-ignore
  const [r, g] = await colourAt(await read(p3), 40, 40);
  expect(Math.abs(r! - 200)).toBeLessThan(4);
  expect(Math.abs(g! - 90)).toBeLessThan(4);
});

it('what is none is refused in one sentence, and nothing of it is run', async () => {
  expect(await fault(Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>throw 1</script></svg>'))).toBe('wall.jpg is no photograph that is read here: JPEG, PNG, WebP and TIFF are.'); // prettier-ignore
  expect(await fault(Buffer.from('GIF89a'))).toContain('is no photograph');
  expect(await fault(Buffer.alloc(0))).toContain('is no photograph');
  const whole = await half(400, 300).jpeg().toBuffer();
  expect(await fault(whole.subarray(0, whole.length / 2))).toBe('wall.jpg is cut off or broken: it could not be read as JPEG.');
  expect(await fault(Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47]), Buffer.from('nonsense')]))).toContain(
    'could not be read as PNG',
  );
  expect(await fault(await sharp({ create: { width: 20, height: 200, channels: 3, background: '#000' } }).png().toBuffer())).toContain('at least 64'); // prettier-ignore
  const frames = Uint8Array.from({ length: 80 * 160 * 3 }, (_, i) => (i < 80 * 80 * 3 ? 200 : 40));
  const moving = await sharp(frames, { raw: { width: 80, height: 160, channels: 3, pageHeight: 80 } }).webp({ loop: 0, delay: [100, 100] }).toBuffer(); // prettier-ignore
  expect(await fault(moving)).toContain('is animated');
});

it('a picture of a hundred megapixels is refused before it is unpacked', async () => {
  const huge = await sharp({ create: { width: 10_000, height: 10_000, channels: 3, background: '#777' }, limitInputPixels: false } as never).png({ compressionLevel: 1 }).toBuffer(); // prettier-ignore
  const before = process.memoryUsage().rss;
  expect(await fault(huge)).toBe('wall.jpg has 100 million pixels; up to 64 million are taken.');
  expect(process.memoryUsage().rss - before).toBeLessThan(100e6);
});
