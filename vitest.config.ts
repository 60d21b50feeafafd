import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const resolve = {
  alias: {
    '@kernels': fileURLToPath(new URL('./kernels', import.meta.url)),
    '@': fileURLToPath(new URL('./src', import.meta.url)),
  },
}
const common = { testTimeout: 120_000, hookTimeout: 120_000, setupFiles: ['tests/setup.ts'] }
/** Tests of whole processes wait for these to start, which a busy machine does several times slower. */
const patient = { ...common, testTimeout: 240_000 }

/** Tests that start the built processes, and one that takes the place of a module of Node, which needs modules of its own. */
const process = [
  'src/files/placing.test.ts',
  'src/cli/cli.test.ts',
  'src/services/runs/results.test.ts',
  'tests/command-line.test.ts',
  'tests/hanging.test.ts',
  'tests/odd-entries.test.ts',
  'tests/pages.test.ts',
  'tests/promises.test.ts',
  'tests/raw.test.ts',
  'tests/raw-highlights.test.ts',
  'tests/runner.test.ts',
  'tests/stations/dispatcher.test.ts',
  'tests/stations/faults.test.ts',
  'tests/stations/redis-queue.test.ts',
  'tests/stations/station.test.ts',
  'tests/touch-ups.test.ts',
  'tests/web.test.ts',
]
/** What takes long and finds little: a run over two thousand pictures, every operation with every limit at many sizes, whole sets. */
const soak = [
  'tests/soak.test.ts',
  'src/ui/bench/worker/stages.test.ts',
  'tests/siblings.test.ts',
  'tests/odd-pictures.test.ts',
  'tests/jpeg-noise.test.ts',
  'tests/stations/faults-soak.test.ts',
]

export default defineConfig({
  resolve,
  test: {
    maxWorkers: 2,
    tags: [{ name: 'soak', description: 'takes long and finds little' }],
    projects: [
      {
        extends: true,
        test: {
          ...common,
          name: 'unit',
          include: ['src/**/*.test.ts', 'demo/**/*.test.ts', 'kernels/**/*.test.ts', 'tests/**/*.test.ts'],
          exclude: [...process, ...soak],
          globalSetup: 'tests/build-kernels.ts',
          // A module is read once for all files; what a test lays over a global goes with it.
          isolate: false,
          unstubGlobals: true,
          restoreMocks: true,
        },
      },
      { extends: true, test: { ...patient, name: 'process', include: process, globalSetup: 'tests/build-all.ts' } },
      { extends: true, test: { ...patient, name: 'soak', include: soak, globalSetup: 'tests/build-all.ts' } },
    ],
  },
})
