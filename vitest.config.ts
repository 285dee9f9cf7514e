import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,files,link,server,author,web,scripts}/**/*.spec.ts'],
    testTimeout: 60_000,
    // By default one core of two would be left alone.
    maxWorkers: 2,
    reporters: ['default'],
  },
});
