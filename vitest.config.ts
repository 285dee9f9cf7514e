import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,files,link,server,author,web,scripts}/**/*.spec.ts'],
    // A busy machine makes a test slow, never red: only what hangs is ended.
    testTimeout: 600_000,
    hookTimeout: 600_000,
    expect: { poll: { timeout: 300_000 } },
    // Modules are read once for all files of a worker; no test leaves anything behind in them.
    isolate: false,
    // By default one core of two would be left alone.
    maxWorkers: 2,
    reporters: ['default'],
  },
});
