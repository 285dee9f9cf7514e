import { expect, it } from 'vitest';
import { FINISHES } from '../../../core/finish/library';
import { give, onStage } from '../testing/station';
import { LibraryShelf } from './library-shelf';
import { TagFilter, type Tagged } from './tag-filter';

interface Filter {
  turn(tag: string): void;
  words(tag: string): string;
  tagged(): Tagged;
}

function shelf() {
  const { part } = onStage<LibraryShelf>(LibraryShelf);
  give(part.items, FINISHES);
  give(part.kind, 'finish');
  return { part, ids: () => part.shown().map(({ id }) => id) };
}

it('is searched by words, and by words that are left out', () => {
  const { part, ids } = shelf();
  expect(ids()).toHaveLength(FINISHES.length);
  part.text.set('oak boards -smoked');
  expect(ids()).toEqual(['oak']);
});

it('is narrowed by family, by tags that are asked for and by tags that are left out', () => {
  const { part } = shelf();
  part.family.set('stone');
  const stone = part.shown();
  expect(stone.every(({ family }) => family === 'stone')).toBe(true);
  const filter = onStage<Filter>(TagFilter).part;
  const press = (said: string) => {
    filter.turn('polished');
    part.tagged.set(filter.tagged());
    expect(filter.words('polished')).toBe(said);
  };
  press('polished: asked for');
  expect(part.shown()).toEqual(stone.filter(({ tags }) => tags.includes('polished')));
  press('polished: left out');
  expect(part.shown()).toEqual(stone.filter(({ tags }) => !tags.includes('polished')));
  press('polished');
  expect(part.shown()).toEqual(stone);
  expect(part.tags()).not.toContain('parquet');
  part.family.set('');
  expect(part.shown()).toHaveLength(FINISHES.length);
});
