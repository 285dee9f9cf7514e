import { defineConfig } from 'vitest/config';

/** Journeys drive the real interface, two files at a time: one alone leaves part of two cores idle. */
export default defineConfig({
  test: {
    root: import.meta.dirname,
    include: ['*.e2e.ts'],
    testTimeout: 400_000,
    hookTimeout: 600_000,
    /** A page of the software's own drawing may be busy for many seconds; what is waited for is a state, not a speed. */
    expect: { poll: { timeout: 120_000 } },
    maxWorkers: 2,
    // Modules are read once, and one browser serves all files of a worker.
    isolate: false,
    setupFiles: ['./keep-browsers.ts'],
    sequence: { concurrent: false },
  },
});
