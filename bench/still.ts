import { demoStage, DEMO_VIEWS, type DemoViewName } from './demo-scene';
import { option, report, textOption } from './report';

/**
 * How near a few denoised samples come to a long reference of another seed, without any holding down of samples, in four views of the
 * demo. SMAPE is against the reference denoised by the same network, which favours the network; the error is against the reference as
 * it is, with the reference's own variance taken off.
 */

const width = option('width', 480);
const height = Math.round((width * 9) / 16);
const referenceSamples = option('reference', 128);
const views = textOption('views', 'exterior,interior,cafe,dusk').split(',') as DemoViewName[];
const COUNTS = [2, 4, 8, 32];

const { memory, pool, denoiser, look } = demoStage();

async function render(from: number, to: number): Promise<number> {
  const start = performance.now();
  for (let s = from; s < to; s++) await pool.run({ kind: 'render', width, height, tile: 32, first: s, count: 1 });
  return (performance.now() - start) / 1000;
}

function begin(seed: number): void {
  memory.settings({ seed });
  memory.setFilm(width, height);
}

const kept = async (radiance: Promise<Float32Array | undefined>) => Float32Array.from((await radiance)!);
const luminance = (p: Float32Array, i: number) => 0.2126 * p[i]! + 0.7152 * p[i + 1]! + 0.0722 * p[i + 2]!;
const luminances = (p: Float32Array) => Float64Array.from({ length: p.length / 4 }, (_, i) => luminance(p, i * 4));
const mean = (values: Float64Array) => values.reduce((sum, v) => sum + v, 0) / values.length;

/** Symmetric mean absolute percentage error over all channels, 0 to 1: |a - b| / (|a| + |b|). */
function smape(a: Float32Array, b: Float32Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) if (i % 4 < 3) sum += Math.abs(a[i]! - b[i]!) / (Math.abs(a[i]!) + Math.abs(b[i]!) + 1e-6);
  return sum / ((a.length / 4) * 3);
}

/** Root of the mean squared relative difference of luminance; `first` and `second` are halves of the reference, by which its own variance is known. */
function relativeError(picture: Float64Array, first: Float64Array, second: Float64Array): number {
  const floor = 0.05 * mean(first);
  let sum = 0;
  for (let i = 0; i < picture.length; i++) {
    const reference = (first[i]! + second[i]!) / 2;
    const own = (first[i]! - second[i]!) ** 2 / 4;
    sum += ((picture[i]! - reference) ** 2 - own) / (reference + floor) ** 2;
  }
  return Math.sqrt(Math.max(0, sum / picture.length));
}

for (const name of views) {
  look(DEMO_VIEWS[name], width / height);
  begin(99);
  let seconds = await render(0, referenceSamples / 2);
  const first = luminances(await kept(denoiser.plain()));
  seconds += await render(referenceSamples / 2, referenceSamples);
  const reference = luminances(await kept(denoiser.plain()));
  const second = reference.map((v, i) => 2 * v - first[i]!);
  const cleanReference = await kept(denoiser.denoised('full'));
  report({ name: `still.${name}.reference`, value: seconds, unit: 's', comparedWith: `${referenceSamples} samples, ${width} x ${height}` });
  const unsure = Math.abs(mean(first) - mean(second)) / 2 / mean(reference);
  report({
    name: `still.${name}.reference.unsure`,
    value: unsure,
    unit: '',
    comparedWith: 'half the difference of its halves, of the mean',
  });
  begin(1);
  let done = 0;
  for (const count of COUNTS) {
    await render(done, count);
    done = count;
    const start = performance.now();
    const picture = await kept(denoiser.denoised('full'));
    const denoiseMs = performance.now() - start;
    const key = `still.${name}.denoised-${count}`;
    report({ name: `${key}.smape`, value: smape(picture, cleanReference), unit: '', comparedWith: count === 2 ? 'aimed at: at most 0.10' : count === 32 ? 'aimed at: at most 0.04' : '' }); // prettier-ignore
    report({ name: `${key}.error`, value: relativeError(luminances(picture), first, second), unit: '' });
    report({ name: `${key}.mean-ratio`, value: mean(luminances(picture)) / mean(reference), unit: '', comparedWith: count === 4 ? '0.98 to 1.02' : '' }); // prettier-ignore
    if (count === 2) {
      report({ name: `still.${name}.denoise-ms`, value: denoiseMs, unit: 'ms', comparedWith: 'full weights' });
      report({ name: `still.${name}.denoised-2.small.smape`, value: smape((await denoiser.denoised('small'))!, cleanReference), unit: '' });
    }
    if (count === 4) report({ name: `still.${name}.plain-4.mean-ratio`, value: mean(luminances((await denoiser.plain())!)) / mean(reference), unit: '' }); // prettier-ignore
  }
}
report({ name: 'still.memory', value: memory.memory.usedBytes / 1e6, unit: 'MB', comparedWith: 'the kernel’s memory' });
pool.close();
