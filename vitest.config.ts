import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,server,author,web}/**/*.spec.ts'],
    testTimeout: 60_000,
    reporters: ['default'],
  },
});
