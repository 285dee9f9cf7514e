import { describe, expect, it } from 'vitest';
import { FINISHES } from './library';
import { searchLibrary, tagCounts, type LibraryQuery } from './search';

const found = (query: Partial<LibraryQuery>) =>
  searchLibrary(FINISHES, { text: '', family: undefined, required: new Set(), excluded: new Set(), ...query }).map((f) => f.id);

describe('the search in the library', () => {
  it('finds by the beginnings of words, in names, families and tags', () => {
    expect(found({ text: 'terra light' })).toEqual(['terrazzo-light']);
    expect(found({ text: 'herringbone' })).toEqual(['oak-herringbone', 'smoked-herringbone', 'ash-herringbone']);
    expect(found({ text: 'polished warm stone' })).toEqual(['granite-red']);
    expect(found({ text: '' })).toHaveLength(FINISHES.length);
    expect(found({ text: 'unobtainable' })).toEqual([]);
  });

  it('leaves out what a word with a minus or an excluded tag names', () => {
    const wood = found({ family: 'wood' });
    expect(found({ family: 'wood', excluded: new Set(['dark']) })).toEqual(wood.filter((id) => !/walnut|smoked|charred/.test(id)));
    expect(found({ family: 'wood', text: '-dark -' })).toEqual(found({ family: 'wood', excluded: new Set(['dark']) }));
    expect(found({ text: 'brick -white -black', family: 'brick' }).filter((id) => /white|black/.test(id))).toEqual([]);
  });

  it('keeps what has all the tags that are asked for', () => {
    const polished = found({ required: new Set(['polished', 'indoors']), family: 'stone' });
    expect(polished.length).toBeGreaterThan(3);
    for (const id of polished) expect(FINISHES.find((f) => f.id === id)!.tags).toEqual(expect.arrayContaining(['polished', 'indoors']));
  });

  it('counts tags, the commonest first', () => {
    const counts = tagCounts(FINISHES);
    expect(counts[0]![1]).toBe(Math.max(...counts.map(([, n]) => n)));
    expect(new Map(counts).get('window')).toBe(FINISHES.filter((f) => f.tags.includes('window')).length);
  });
});
