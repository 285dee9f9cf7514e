import { defineConfig } from 'vitest/config';

/** Journeys drive the real interface, one after the other: the machine has two cores and no GPU. */
export default defineConfig({
  test: {
    root: import.meta.dirname,
    include: ['*.e2e.ts'],
    testTimeout: 180_000,
    hookTimeout: 120_000,
    fileParallelism: false,
    sequence: { concurrent: false },
  },
});
