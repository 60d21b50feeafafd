import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { layDemo } from './lay-out'

const build = dirname(fileURLToPath(import.meta.url))
await layDemo(process.env, join(build, '..', 'demo'), join(build, 'migrations'))
