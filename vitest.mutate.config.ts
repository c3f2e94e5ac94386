import path from 'node:path';
import { defineConfig } from 'vitest/config';

/** The tests that mutants of the engine have to meet: few runs of the properties, always the same ones. */
export default defineConfig({
  resolve: { alias: { '@': path.resolve(import.meta.dirname, 'src') } },
  test: {
    setupFiles: ['test/properties/setUp.ts'],
    include: [
      'src/core/{circulation,route,access,line,trail,record}/**/*.test.ts',
      'test/properties/circulation.test.ts',
    ],
    testTimeout: 60_000,
    env: { AVENDA_RUNS: '20', AVENDA_SEED: '20' },
  },
});
