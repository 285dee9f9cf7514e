import { defineConfig } from 'vitest/config';

/** Journeys drive the real interface, one after the other: two at a time take longer on two cores without a GPU. */
export default defineConfig({
  test: {
    root: import.meta.dirname,
    include: ['*.e2e.ts'],
    testTimeout: 400_000,
    hookTimeout: 600_000,
    /** A page of the software's own drawing may be busy for many seconds; what is waited for is a state, not a speed. */
    expect: { poll: { timeout: 120_000 } },
    fileParallelism: false,
    // Modules are read once, and one browser serves all files.
    isolate: false,
    sequence: { concurrent: false },
  },
});
