import path from 'node:path';
import { defineConfig } from 'vitest/config';

/**
 * The tests that a changed core has to meet (`npm run mutate`): few runs of the properties, always the same ones. What
 * reads the sources themselves is left out, because a change is made in all of them at once.
 */
export default defineConfig({
  resolve: { alias: { '@': path.resolve(import.meta.dirname, 'src') } },
  test: {
    setupFiles: ['test/properties/setUp.ts'],
    include: ['src/core/**/*.test.ts', 'test/properties/{circulation,differential,preflight,rules,running}.test.ts'],
    testTimeout: 120_000,
    env: { AVENDA_RUNS: '20', AVENDA_SEED: '20' },
  },
});
