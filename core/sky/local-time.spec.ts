import { afterEach, describe, expect, it } from 'vitest';
import { instantOf, offsetMinutes } from './local-time';

const Given = Intl.DateTimeFormat;
afterEach(() => {
  Intl.DateTimeFormat = Given;
});

describe('the time at a place', () => {
  it('makes the reader of a zone once: dragging the hour spent half a core on that', () => {
    let made = 0;
    Intl.DateTimeFormat = class extends Given {
      constructor(...parts: ConstructorParameters<typeof Given>) {
        super(...parts);
        made++;
      }
    } as typeof Given;
    const zone = 'Atlantic/Azores';
    const instants = Array.from({ length: 50 }, (_, i) => instantOf('2026-07-01', i * 20, zone).toISOString());
    expect(instants[0]).toBe('2026-07-01T00:00:00.000Z');
    expect(offsetMinutes(zone, new Date('2026-01-01T12:00:00Z'))).toBe(-60);
    expect(made).toBe(1);
  });
});
