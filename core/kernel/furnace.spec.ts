import { expect, it } from 'vitest';
import { furnaceTable } from './furnace';

it('every shipped finish on a white base sends back all light that comes from all sides, in the open and behind a pane', () => {
  // The noise of 1,024 samples and what is read between the entries of the tables come to 2 per cent at most.
  for (const { name, shares } of furnaceTable(1024))
    for (const share of shares) {
      expect(share, name).toBeGreaterThan(0.97);
      expect(share, name).toBeLessThan(1.02);
    }
});
