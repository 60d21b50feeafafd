// Bundles the web server, the runner, its workers, helpers, the command line and the command that lays out the demo to .build/.
import { build } from 'esbuild'
import { bundleOptions } from './bundles.mjs'

await build(bundleOptions())
