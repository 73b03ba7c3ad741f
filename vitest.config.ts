import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: [
      'src/**/*.test.ts',
      'market/**/*.test.ts',
      'lab/**/*.test.ts',
      'tests/docs/**/*.test.ts',
      'tests/server/**/*.test.ts',
      'tests/campaigns/**/*.test.ts',
    ],
    testTimeout: 120_000,
    hookTimeout: 180_000,
    pool: 'forks',
    // One more than there are cores: much of what runs waits for another process.
    maxWorkers: 3,
  },
});
