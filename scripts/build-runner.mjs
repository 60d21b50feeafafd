// Bundles the runner and its worker thread to .build/, with the migrations they need.
import { cpSync, mkdirSync } from 'node:fs'
import { build } from 'esbuild'

mkdirSync('.build', { recursive: true })
await build({
  entryPoints: { runner: 'src/runner/main.ts', worker: 'src/runner/worker.ts' },
  outdir: '.build',
  outExtension: { '.js': '.mjs' },
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  sourcemap: true,
  packages: 'external',
  alias: { '@': './src', '@kernels': './kernels' },
})
cpSync('src/db/migrations', '.build/migrations', { recursive: true })
