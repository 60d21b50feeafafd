// How every process but the browser's is bundled to .build/: shared by the build and by the watching of `./loop dev`.
import { cpSync, mkdirSync } from 'node:fs'

/**
 * Packages with native parts, files of their own or ways to find them. All others are bundled: a process that reads hundreds of small
 * files takes twice as long to be ready.
 */
const readAsTheyAre = [
  'better-sqlite3',
  'exifr',
  'libraw-wasm',
  'next',
  'pdfkit',
  'pino',
  'react',
  'react-dom',
  'sharp',
  'wawoff2',
  'yauzl',
  'yazl',
]

/**
 * Options for esbuild; the migrations and the decoder that the processes need are laid beside them.
 * @returns {import('esbuild').BuildOptions}
 */
export function bundleOptions() {
  mkdirSync('.build', { recursive: true })
  cpSync('src/store/migrations', '.build/migrations', { recursive: true })
  cpSync('node_modules/libraw-wasm/dist/libraw.wasm', '.build/libraw.wasm')
  return {
    entryPoints: {
      runner: 'src/runner/main.ts',
      worker: 'src/runner/worker.ts',
      station: 'src/runner/stations/station-main.ts',
      'root-signs': 'src/runner/stations/root-signs-child.ts',
      raw: 'src/files/raw/thread.ts',
      helper: 'src/services/helper/main.ts',
      web: 'src/web/main.ts',
      'lay-demo': 'demo/main.ts',
      cli: 'src/cli/main.ts',
    },
    outdir: '.build',
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    sourcemap: true,
    external: readAsTheyAre,
    mainFields: ['module', 'main'],
    // Older packages ask for parts of Node by this, and modules have none.
    banner: { js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url)" },
    alias: { '@': './src', '@kernels': './kernels' },
  }
}
