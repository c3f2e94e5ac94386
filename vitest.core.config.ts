import path from 'node:path';
import { defineConfig } from 'vitest/config';

/** Unit and property tests that need neither database nor browser. */
export default defineConfig({
  resolve: { alias: { '@': path.resolve(import.meta.dirname, 'src') } },
  test: {
    setupFiles: ['test/properties/setUp.ts'],
    include: ['src/**/*.test.ts', 'test/properties/**/*.test.ts'],
    testTimeout: 600_000,
    // Bounds on what hangs, not on how fast anything is.
    expect: { poll: { timeout: 60_000 } },
    maxWorkers: 2,
  },
});
