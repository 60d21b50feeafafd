// Bundles the runner, its worker thread, the command line and the command that lays out the demo to .build/, with the migrations they need.
import { cpSync, mkdirSync } from 'node:fs'
import { build } from 'esbuild'

mkdirSync('.build', { recursive: true })
await build({
  entryPoints: {
    runner: 'src/cli/runner-main.ts',
    worker: 'src/runner/worker.ts',
    'lay-demo': 'src/cli/lay-demo.ts',
    cli: 'src/cli/main.ts',
  },
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
