import { configDefaults, defineConfig } from 'vitest/config'

/**
 * What happens in real time cannot be measured on shared cores: these run last, one after another.
 */
const TIMED = ['e2e/firstLoad.test.ts', 'e2e/playback.test.ts']

/**
 * Real browsers, databases and dropped connections on machines that others use too: one more
 * attempt, which `npm test` lists at its end, so that none goes unnoticed.
 */
const RETRY = 1

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'unit',
          include: ['{core,studio,cli,encoders,render-worker,runtime,scripts}/**/*.test.ts'],
          testTimeout: 120_000,
          maxWorkers: 3,
          // Loading the modules anew for every file would take a third of the time of them all.
          isolate: false,
        },
      },
      {
        test: {
          name: 'integration',
          retry: RETRY,
          include: ['server/**/*.test.ts'],
          testTimeout: 60_000,
          hookTimeout: 60_000,
          maxWorkers: 3,
        },
      },
      {
        test: {
          name: 'browser',
          retry: RETRY,
          include: ['e2e/**/*.test.ts'],
          exclude: [...configDefaults.exclude, ...TIMED],
          testTimeout: 240_000,
          hookTimeout: 180_000,
          // They wait as much as they work, so two keep two cores busy.
          maxWorkers: 2,
          expect: { poll: { timeout: 30_000 } },
          sequence: { groupOrder: 1 },
        },
      },
      {
        test: {
          name: 'timed',
          retry: RETRY,
          include: TIMED,
          testTimeout: 180_000,
          hookTimeout: 120_000,
          maxWorkers: 1,
          expect: { poll: { timeout: 20_000 } },
          sequence: { groupOrder: 2 },
        },
      },
    ],
  },
})
