import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    projects: [
      { test: { name: 'unit', include: ['{core,studio,cli,runtime,scripts}/**/*.test.ts'], testTimeout: 30_000 } },
      { test: { name: 'integration', include: ['server/**/*.test.ts'], testTimeout: 60_000, hookTimeout: 60_000 } },
      // After the others and one file at a time: a browser that shares two cores with everything else tells nothing.
      { test: { name: 'browser', include: ['e2e/**/*.test.ts'], testTimeout: 180_000, hookTimeout: 120_000, maxWorkers: 1, expect: { poll: { timeout: 20_000 } }, sequence: { groupOrder: 1 } } },
    ],
  },
})
