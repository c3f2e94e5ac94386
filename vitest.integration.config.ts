import path from 'node:path';
import { defineConfig } from 'vitest/config';

/** Tests against a real PostgreSQL: a database per file, cloned from a migrated template. */
export default defineConfig({
  resolve: { alias: { '@': path.resolve(import.meta.dirname, 'src') } },
  test: {
    setupFiles: ['test/properties/setUp.ts'],
    include: ['test/integration/**/*.test.ts'],
    globalSetup: ['test/integration/cluster.ts'],
    testTimeout: 600_000,
    // Bounds on what hangs, not on how fast anything is.
    expect: { poll: { timeout: 60_000 } },
    hookTimeout: 600_000,
    maxWorkers: 3,
  },
});
