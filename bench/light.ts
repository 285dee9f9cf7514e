import type { Page } from 'playwright-core';
import { box, darkSky, matt, testScene } from '../core/kernel/testing';
import { placedLampOf } from '../core/scene/lamps';
import type { PlacedLamp } from '../core/lamp/placed-lamp';
import { random } from '../core/random';
import { openSheet, refined, setStage } from '../e2e/stage';
import { median, report } from './report';
import { turning } from './turning';

/** Light: a level in the picture, another sky, and many lamps against few. */

const LEVELS = 12;

/** Milliseconds from a drag of a level's bar to the next working picture, in the page. */
async function dims(page: Page): Promise<number[]> {
  const times: number[] = [];
  for (let i = 0; i < LEVELS; i++) {
    await refined(page, 0.2);
    // As a hand does: it comes to the bar before it drags.
    await page.evaluate(() => delete document.querySelector<HTMLElement>('[data-testid=refined-picture]')!.dataset['levelKnown']);
    await page.mouse.move(700, 300);
    await page.locator('[data-circuit="Hall pendants"] .level').first().hover();
    await page.locator('[data-testid=refined-picture][data-level-known]').waitFor();
    times.push(
      await page.evaluate(async (level) => {
        const picture = document.querySelector<HTMLElement>('[data-testid=working-picture]')!;
        const bar = document.querySelector<HTMLInputElement>('[data-circuit="Hall pendants"] .level')!;
        const drawn = new Promise<number>((resolve) => {
          new MutationObserver((_, observer) => {
            observer.disconnect();
            requestAnimationFrame(resolve);
          }).observe(picture, { attributeFilter: ['data-frames'] });
        });
        const start = performance.now();
        bar.value = String(level);
        bar.dispatchEvent(new Event('input', { bubbles: true }));
        return (await drawn) - start;
      }, i % 2 ? 1 : 0.3),
    ); // prettier-ignore
  }
  return times;
}

/** Time for an illuminance of the same error, in a room: variance over seeds by the time of a sample. */
function cost(count: number): number {
  const next = random(11);
  const lamps = Array.from({ length: count }, (_, i) => {
    const lamp: PlacedLamp = {
      kind: 'lamp', name: 'l', circuit: 'c', type: 't', position: [next() * 18 + 1, next() * 10 + 1, 2.9], direction: [0, 0, -1], turnDeg: 0,
      form: { kind: 'spot', radiusM: 0.03, beamDeg: 60, fieldDeg: 90 }, power: { unit: 'lm', value: 1 }, colour: { kelvin: 4000 },
    }; // prettier-ignore
    return placedLampOf('s', String(i), lamp, 20_000 / count);
  });
  const scene = testScene([{ mesh: box([0, 0, 0], [20, 12, 3], true), finish: matt(0.5) }], darkSky(), lamps);
  const SAMPLES = 2048;
  let variance = 0;
  let ms = 0;
  for (let place = 0; place < 24; place++) {
    const [x, y] = [next() * 18 + 1, next() * 10 + 1];
    const start = performance.now();
    const values = Array.from({ length: 12 }, (_, seed) =>
      scene.kernel.measureIlluminance(scene.scene, x, y, 0.8, 0, 0, 1, SAMPLES, seed + 1),
    );
    ms += performance.now() - start;
    const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
    variance += values.reduce((sum, v) => sum + (v / mean - 1) ** 2, 0) / (values.length - 1);
  }
  return variance * ms;
}

const [few, many] = [cost(25), cost(500)];
report({ name: 'light.500-lamps.vs-25', value: many / few, unit: 'x', comparedWith: 'time for an equal error in a room; under 2' });

const stage = await setStage();
const page = await openSheet(stage, 'Light', { width: 1280, height: 800, pixels: 1 });
await page.locator('[data-circuit="Hall pendants"]').waitFor();
const band = (await page.getByTestId('day-band').boundingBox())!;
await page.mouse.click(band.x + band.width * 0.775, band.y + 10);
await refined(page, 1);
report({ name: 'light.frame', value: await turning(page), unit: 'ms', comparedWith: 'a working picture while the camera turns' });
report({ name: 'light.dim-to-picture', value: median(await dims(page)), unit: 'ms', comparedWith: 'a level’s bar to the working picture on the screen; under 100 and a frame' }); // prettier-ignore
await page.getByRole('tab', { name: 'Sun and site' }).click();
await refined(page, 1);
const start = performance.now();
await page.getByTestId('sky').selectOption('1');
await page.waitForFunction(() => Number(document.querySelector<HTMLElement>('[data-testid=refined-picture]')!.dataset['samples']) < 0.2);
await refined(page, 1);
report({ name: 'light.sky-to-refined', value: performance.now() - start, unit: 'ms', comparedWith: 'another sky to one denoised sample a pixel' }); // prettier-ignore
await stage.close();
