import { describe, expect, it } from 'vitest';
import { fileName, fileNames, unknownParts } from './naming';

describe('a name of a file', () => {
  it('is filled from its pattern, without what no file system takes', () => {
    expect(fileName('{number} {view}, {condition}', { number: '01', view: 'Quay: north/south', condition: 'Dusk' })).toBe('01 Quay north south, Dusk');
    expect(fileName('{view} - {option} - {condition}', { view: 'Hall', condition: 'Dusk' })).toBe('Hall - Dusk');
    expect(fileName('{option}', {})).toBe('picture');
    expect(fileName('..{view}', { view: '../../etc/passwd' })).toBe('etc passwd');
  }); // prettier-ignore

  it('is there once, whatever its case', () => {
    expect(fileNames('{view}', [{ view: 'Hall' }, { view: 'hall' }, { view: 'Hall' }])).toEqual(['Hall', 'hall (2)', 'Hall (3)']);
  });

  it('tells which parts there are not', () => {
    expect(unknownParts('{view} {weather} {}')).toEqual(['weather', '']);
  });
});
