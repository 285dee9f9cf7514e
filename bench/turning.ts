import type { Page } from 'playwright-core';
import { refined } from '../e2e/stage';

const PICTURES = 12;

/** Milliseconds that a picture takes while the camera turns, and nothing else changes. */
export async function turning(page: Page): Promise<number> {
  await refined(page, 0.2);
  const box = (await page.getByTestId('working-picture').boundingBox())!;
  let x = box.x + box.width / 2;
  const y = box.y + box.height / 2;
  await page.mouse.move(x, y);
  await page.mouse.down();
  let done = false;
  const frame = page.evaluate(async (count) => {
    const picture = document.querySelector<HTMLElement>('[data-testid=working-picture]')!;
    const times: number[] = [];
    await new Promise<void>((resolve) => {
      new MutationObserver((_, observer) => {
        if (times.push(performance.now()) <= count) return;
        observer.disconnect();
        resolve();
      }).observe(picture, { attributeFilter: ['data-frames'] });
    });
    return (times.at(-1)! - times[0]!) / count;
  }, PICTURES);
  void frame.finally(() => (done = true));
  while (!done) await page.mouse.move((x += 1), y);
  await page.mouse.up();
  return frame;
}
