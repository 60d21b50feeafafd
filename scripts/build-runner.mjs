// Bundles every process but the browser's to .build/: web server, runner, its workers, helpers, the command line and the command that
// lays out the demo, with the migrations they need.
import { cpSync, mkdirSync } from 'node:fs'
import { build } from 'esbuild'

mkdirSync('.build', { recursive: true })
await build({
  entryPoints: {
    runner: 'src/cli/runner-main.ts',
    worker: 'src/runner/worker.ts',
    helper: 'src/server/helper/main.ts',
    web: 'src/web/main.ts',
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
