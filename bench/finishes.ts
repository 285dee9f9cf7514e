import * as v from 'valibot';
import { prepareMesh } from '../core/geometry/prepare-mesh';
import { SceneMemory } from '../core/kernel/scene-memory';
import { kernelModule } from '../core/kernel/testing';
import { applyChange, EMPTY_MODEL } from '../core/model/model';
import { changeSchema } from '../core/model/schema';
import { SceneCompiler } from '../core/scene/compile';
import { openBrowser } from '../e2e/stage';
import { SceneReceiver, SceneSender } from '../web/app/picture/scene-changes';
import { bigSnapshot, hashes, linkBigModel, shapes } from './big-model';
import { FINISHES } from '../core/finish/library';
import { generateMaps, MAP_NAMES } from '../core/finish/maps/generate';
import { median, report } from './report';

/** What finishes cost: painting the shipped map sets at 1024 px on one core, and giving one to five thousand elements. */

const ELEMENTS = 5000;

const seconds = new Map<string, number>();
for (const name of MAP_NAMES) {
  const start = performance.now();
  generateMaps(name);
  seconds.set(name, (performance.now() - start) / 1000);
}
const byFamily = new Map<string, [string, number][]>();
for (const [name, s] of seconds) {
  const { family } = FINISHES.find((f) => f.maps === name)!;
  byFamily.set(family, [...(byFamily.get(family) ?? []), [name, s]]);
}
for (const [family, sets] of byFamily) {
  const [slowest, most] = sets.reduce((a, b) => (b[1] > a[1] ? b : a));
  report({
    name: `finishes.maps.${family}`,
    value: most,
    unit: 's',
    comparedWith: `the slowest of ${String(sets.length)}, ${slowest}; at most 2`,
  });
}
report({
  name: 'finishes.maps.all',
  value: [...seconds.values()].reduce((a, b) => a + b, 0),
  unit: 's',
  comparedWith: `${String(seconds.size)} map sets`,
});
report({ name: 'finishes.shipped', value: FINISHES.length, unit: '', comparedWith: 'at least 120' });

/** Of a scene in which so many elements get another finish: from the decision to the kernel's memory, and how much less that is than placing them. */
function kernelUpdate(count: number): { assignMs: number; placeMs: number } {
  // Every `count / ELEMENTS`-th element has the material that gets the finish.
  const change = v.parse(changeSchema, bigSnapshot(count, count / ELEMENTS));
  const sources = [{ id: 'big', model: applyChange(EMPTY_MODEL, change) }];
  const prepared = new Map(shapes.map((shape, i) => [hashes[i]!, prepareMesh(shape)]));
  const assets = { mesh: (key: string) => prepared.get(key), maps: () => undefined };
  const [compiler, sender, receiver] = [new SceneCompiler(), new SceneSender(), new SceneReceiver()];
  const memory = new SceneMemory(kernelModule());
  const to = (finish: string) => {
    const start = performance.now();
    const scene = compiler.compile(sources, new Map([['assign/big/m0', { finish, at: '' }]]));
    memory.setScene(receiver.take(structuredClone(sender.changeTo(scene))), assets);
    return performance.now() - start;
  };
  to('paint');
  const assign = ['steel', 'zinc-plain', 'paint', 'steel', 'aluminium', 'paint', 'steel'].map(to);
  // The same number of instances in another place each time.
  const place = [1, 2, 3].map((x) => {
    const moved = receiver.take(structuredClone(new SceneSender().changeTo(compiler.compile(sources, new Map([['placement/big', x]])))));
    const start = performance.now();
    memory.setScene({ ...moved, instances: moved.instances.map((i) => ({ ...i, transform: i.transform.map((c, k) => (k === 12 ? c + x : c)) })) }, assets); // prettier-ignore
    return performance.now() - start;
  });
  return { assignMs: median(assign), placeMs: median(place) };
}

const small = kernelUpdate(ELEMENTS);
const large = kernelUpdate(ELEMENTS * 10);
report({ name: 'finishes.assign.kernel', value: small.assignMs, unit: 'ms', comparedWith: `${String(ELEMENTS)} elements, decision to kernel; placing them ${small.placeMs.toFixed(0)} ms` }); // prettier-ignore
report({ name: 'finishes.assign.kernel.in-ten-times', value: large.assignMs / small.assignMs, unit: 'x', comparedWith: `the same ${String(ELEMENTS)} among ${String(ELEMENTS * 10)} (${large.assignMs.toFixed(0)} ms; placing all ${large.placeMs.toFixed(0)} ms)` }); // prettier-ignore

/** In the browser: from the choice to the first frame that shows it. */
async function inBrowser(): Promise<void> {
  const big = await linkBigModel(ELEMENTS, 1);
  const browser = await openBrowser();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${big.server.url}/#finishes`);
  await page.waitForFunction((count) => Number(document.querySelector<HTMLElement>('[data-testid=working-picture]')?.dataset['parts']) === count, ELEMENTS, { timeout: 120_000 }); // prettier-ignore
  await page.locator('[data-material=m0] .opener').click();
  await page.getByTestId('finish-select').waitFor();
  /** Milliseconds from an act to the frame that it brings. */
  const untilDrawn = async (act: 'assign' | 'turn', finish = '') => {
    await page.waitForFunction(() => document.querySelector('[data-testid=refined-picture]')?.classList.contains('shown'), undefined, { timeout: 300_000 }); // prettier-ignore
    return page.evaluate(
      async ([act, finish]) => {
        const canvas = document.querySelector<HTMLElement>('[data-testid=working-picture]')!;
        const select = document.querySelector<HTMLSelectElement>('[data-testid=finish-select]')!;
        const before = canvas.dataset['frames'];
        const start = performance.now();
        if (act === 'assign') {
          select.value = finish;
          select.dispatchEvent(new Event('change'));
        } else document.querySelector('[data-testid=picture]')!.dispatchEvent(new WheelEvent('wheel', { deltaY: 0, bubbles: true }));
        while (canvas.dataset['frames'] === before) await new Promise(requestAnimationFrame);
        return performance.now() - start;
      },
      [act, finish] as const,
    );
  };
  const times: number[] = [];
  const beyond: number[] = [];
  for (const finish of ['paint', 'steel', 'paint-black', 'paint', 'steel', 'paint']) {
    // What the wheel brings that does not turn is a frame of the same view, and nothing else.
    const frame = await untilDrawn('turn');
    times.push(await untilDrawn('assign', finish));
    beyond.push(times.at(-1)! - frame);
  }
  report({ name: 'finishes.assign.page', value: median(times.slice(1)), unit: 'ms', comparedWith: `${String(ELEMENTS)} elements, choice to changed working picture; a drawn frame included` }); // prettier-ignore
  report({ name: 'finishes.assign.page.beyond-frame', value: median(beyond.slice(1)), unit: 'ms', comparedWith: 'less what a frame of the same view takes just before; at most 100' }); // prettier-ignore
  await browser.close();
  await big.close();
}

await inBrowser();
