import { expect, it } from 'vitest';
import { cosinePower, webOfForm, writeEulumdat } from '../../../core/lamp/closed-forms';
import { lampTypeKey } from '../../../core/project/lighting';
import { onStage } from '../testing/station';
import { PhotometricFiles } from './photometric-files';

const text = writeEulumdat(
  webOfForm({ name: 'Café', share: cosinePower(1), isRound: true, inputW: 9, fluxLm: 800, openingM: [0.1, 0.1, 0] }),
);
const row = lampTypeKey('Spot');

it('a photometric file is brought in for rows of the schedule, by its content, whatever letters it is written in', async () => {
  const { part, live } = onStage<PhotometricFiles>(PhotometricFiles);
  await part.bring(new File([text], 'a.ldt'), [row]);
  await part.bring(new File([text], 'again.ldt'), [row]);
  // é of the western letters of before, which is no UTF-8.
  await part.bring(new File([Uint8Array.from(text, (letter) => letter.charCodeAt(0))], 'old.ldt'), [row]);
  const files = live.commands.map((command) => (command.type === 'bring-photometry' ? command.file : undefined)!);
  expect(files.map(({ name }) => name)).toEqual(['a.ldt', 'again.ldt', 'old.ldt']);
  expect(files[0]!.id).toBe(files[1]!.id);
  expect(files[2]!.text).toBe(text);
  expect(live.commands[0]).toMatchObject({ on: [row] });
});

it('what is none is refused in a sentence, and changes nothing', async () => {
  const { part, live } = onStage<PhotometricFiles>(PhotometricFiles);
  const said: string[] = [];
  live.refusals$.subscribe((sentence) => said.push(sentence));
  await part.bring(new File(['hello'], 'a.ies'), [row]);
  await part.bring(new File([''], 'empty.ldt'), [row]);
  await part.bring(new File([new Uint8Array(2_600_000)], 'large.ies'), [row]);
  expect(said).toEqual([
    'a.ies: The file ends at line 1, before its kind of luminaire.',
    expect.stringMatching(/^empty\.ldt: .*\.$/),
    'large.ies is larger than any photometric file: 2600 kB.',
  ]);
  expect(live.commands).toEqual([]);
});
