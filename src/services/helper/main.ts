import { closeSync, openSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { allowOnlyPictures } from '@/files/loaders'
import { serveJobs } from '@/processes/serve'
import { openContext, reopenRoots } from '../context'
import { hasLostReads } from '../preflight/known-facts'
import { type CallMessage, carryOut } from './calls'

/* A helper process: carries out one call at a time on the folders and files of a person. */

allowOnlyPictures()
const context = openContext(process.env, join(dirname(fileURLToPath(import.meta.url)), 'migrations'))

serveJobs(async (job, watcher) => {
  const message = job as CallMessage
  simulateHanging(message)
  // Settings may have named other folders meanwhile.
  return carryOut(reopenRoots(context), message, watcher)
}, hasLostReads)

/** For the tests of promises: a path whose name asks for it holds this process up as a dead disk does. Off unless the environment says so. */
function simulateHanging({ args }: CallMessage): void {
  const pipe = process.env.COPPER_LOOP_TROUBLE_PIPE
  const isAsked = process.env.COPPER_LOOP_TROUBLE === 'allowed' && JSON.stringify(args ?? {}).includes('native-hang')
  // Opening a named pipe waits for whoever writes to it.
  if (isAsked && pipe) closeSync(openSync(pipe, 'r'))
}
