import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['src/**/*.test.ts', 'demo/**/*.test.ts', 'bench/**/*.test.ts'],
    testTimeout: 180_000,
    pool: 'threads',
  },
});
