import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,files,link,server,author,web,scripts}/**/*.spec.ts'],
    testTimeout: 60_000,
    reporters: ['default'],
  },
});
