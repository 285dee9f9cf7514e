import { afterAll, expect, it } from 'vitest';
import { writeIfc } from '../author/ifc-writer';
import { buildMarramLanding } from '../author/model/build';
import { DEFAULT_PARAMETERS } from '../author/model/parameters';
import { mutated } from '../core/formats/mutated';
import { randomInteger } from '../core/random';
import { worker } from '../server/dist-paths';
import { ReadingThread } from './reading-thread';

/** Files that are read in a thread of their own, some of which its parsers never return from. */

const model = buildMarramLanding(DEFAULT_PARAMETERS);
const sound = new TextEncoder().encode(writeIfc({ ...model, elements: new Map([...model.elements].slice(0, 6)) }));

const LIMIT_MS = 3000;
const reading = new ReadingThread(worker('file-worker'), () => LIMIT_MS);
afterAll(() => {
  reading.close();
});
const read = (bytes: Uint8Array, fileName = 'x.ifc') => reading.model({ bytes, fileName, file: null, before: null }, () => undefined);

it('a file whose parser does not come to an end is given up, and the next ones are read', async () => {
  // Where the standard has a set, a word: the parser looks for the set's end for ever.
  const text = new TextDecoder().decode(sound).replace("'Body','Tessellation',(", "'Body','Tessellation','x',(");
  const [hung, next] = await Promise.all([read(new TextEncoder().encode(text)), read(sound, 'next.ifc')]);
  expect(hung).toMatchObject({ ok: false });
  expect(!hung.ok && hung.message).toMatch(/^x\.ifc could not be read: .* within 3 s\. The file is probably damaged\.$/);
  expect(next.ok && next.change.elements).toHaveLength(6);
});

it('an IFC file that was changed at random is read or refused in a sentence', async () => {
  const random = randomInteger(17);
  let hung = 0;
  for (let i = 0; i < 60; i++) {
    const answer = await read(mutated(sound, random));
    if (answer.ok) continue;
    expect(answer.message, `mutation ${String(i)}`).toMatch(/^x\.ifc .*\.$/s);
    expect(answer.message).not.toMatch(/undefined|TypeError|the parser stopped/);
    if (/no end within/.test(answer.message)) hung++;
  }
  expect(hung).toBeLessThan(4);
});

it('what a reader does not foresee is a sentence too', async () => {
  expect(await read(Uint8Array.of(1, 2, 3), 'x.doc')).toMatchObject({ ok: false, message: expect.stringMatching(/^x\.doc is of no kind that is read: .*\.$/) as string }); // prettier-ignore
});
