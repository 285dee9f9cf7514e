import { expect, it } from 'vitest';
import type { Remark } from '../../../core/project/remark';
import type { Pointed } from '../state/picture-state';
import { onStage } from '../testing/station';
import { RemarksCard } from './remarks-card';

interface Parts {
  remarks(): readonly Remark[];
  add(text: string, author: string): boolean;
  pick(): void;
  set(remark: Remark, status: Remark['status']): void;
  drop(remark: Remark): void;
  go(remark: Remark): void;
  bring(event: Event): Promise<void>;
  said(): string;
}
const kept: Remark = { id: 'remark-0001', text: 'Sill too high', author: 'Client', at: '2026-11-28T10:00:00.000Z', status: 'open', camera: { position: [0, -9, 1.65], target: [0, 0, 1.65], focalMm: 28 }, place: [1, 2, 3] }; // prettier-ignore
const file = (name: string, text: string) => ({ target: { files: [new File([text], name)], value: name } }) as unknown as Event;

it('remarks are written at a place that was clicked, with the camera of then, and nothing without words', () => {
  const { part, live, picture } = onStage<Parts>(RemarksCard);
  expect(part.add('  ', 'x')).toBe(false);
  part.pick();
  picture.pointTaker$.value!({ source: 's', element: 'e', point: [1, 2, 3] } as unknown as Pointed);
  expect(picture.pointTaker$.value).toBeUndefined();
  part.add(' Raise the sill ', 'Office');
  expect(live.commands).toMatchObject([{ type: 'keep-remark', remark: { text: 'Raise the sill', author: 'Office', status: 'open', place: [1, 2, 3], element: { source: 's', id: 'e' }, camera: picture.camera$.value } }]); // prettier-ignore
});

it('they are pinned in the picture in the order that they came, gone to, set to another state, dropped', () => {
  const { part, live, picture } = onStage<Parts>(RemarksCard);
  live.put('remark/later', { ...kept, id: 'later-0001', at: '2026-11-29T10:00:00.000Z', place: undefined });
  live.put('remark/remark-0001', kept);
  expect(part.remarks().map(({ id }) => id)).toEqual(['remark-0001', 'later-0001']);
  expect(picture.marks$.value).toEqual([{ id: 'remark-0001', place: [1, 2, 3], label: '1', current: false }]);
  const gone: unknown[] = [];
  picture.goTo$.subscribe(({ camera }) => gone.push(camera));
  part.go(kept);
  part.set(kept, 'done');
  part.drop(kept);
  expect(gone).toEqual([kept.camera]);
  expect(live.commands).toEqual([
    { type: 'keep-remark', remark: { ...kept, status: 'done' } },
    { type: 'drop-remark', id: kept.id },
  ]);
});

it('a file that a viewer has saved brings them; what is no such file is told in a sentence', async () => {
  const { part, live } = onStage<Parts>(RemarksCard);
  await part.bring(file('For the client remarks.json', JSON.stringify({ remarks: [kept] })));
  expect([live.commands, part.said()]).toEqual([[{ type: 'keep-remark', remark: kept }], '1 remarks from For the client remarks.json.']);
  for (const text of ['{', '{"remarks":[{"id":"x"}]}', '[]']) {
    await part.bring(file('a.json', text));
    expect(part.said()).toBe('This file holds no remarks of a viewer.');
  }
  await part.bring(file('a.bcf', 'no zip'));
  expect(part.said()).toBe('This file is no zip, as BCF is.');
  expect(live.commands).toHaveLength(1);
});
