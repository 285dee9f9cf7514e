import { cpus } from 'node:os';
import { setTimeout as sleep } from 'node:timers/promises';

const LOOK_MS = 400;
const WAIT_MS = 2000;
const SPARE = 0.8;

const idleMs = (): number => cpus().reduce((sum, { times }) => sum + times.idle, 0);

/**
 * Resolves when about a whole core of the computer has had nothing to do for a moment. Priorities would not do: they hold
 * among the threads of one session, and the browser with its refining picture is another one.
 */
export async function spareCore(): Promise<void> {
  for (;;) {
    const before = idleMs();
    await sleep(LOOK_MS, undefined, { ref: false });
    if (idleMs() - before >= SPARE * LOOK_MS) return;
    await sleep(WAIT_MS, undefined, { ref: false });
  }
}
