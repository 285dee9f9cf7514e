import { rmSync } from 'node:fs';
import { readdir } from 'node:fs/promises';
import path from 'node:path';
import { parentPort } from 'node:worker_threads';
import { KeptForPrints } from './kept-for-prints';
import { PrintJob, type FromPrintWorker, type PrintInput } from './print-job';

/** The thread that prints: one print after the other, each with what is kept of those before. A print that fails ends it. */

/** A print to make, or: others want the processor for so long. */
export type ToPrintWorker = { type: 'print'; input: PrintInput } | { type: 'hold'; ms: number };

const kept = new KeptForPrints();
let job: PrintJob | undefined;

parentPort!.on('message', (message: ToPrintWorker) => {
  if (message.type === 'hold') job?.hold(message.ms);
  else void print(message.input);
});

async function print(input: PrintInput): Promise<void> {
  await sweep(input.output);
  job = new PrintJob(input, kept, (message: FromPrintWorker) => {
    parentPort!.postMessage(message);
  });
  await job.run();
  job = undefined;
  parentPort!.postMessage({ type: 'finished' } satisfies FromPrintWorker);
}

/** What an earlier end left half written. */
async function sweep(output: string): Promise<void> {
  const folder = path.dirname(output);
  for (const name of await readdir(folder)) if (name.startsWith(path.basename(output)) && name.endsWith('.part')) rmSync(path.join(folder, name), { force: true });
} // prettier-ignore
