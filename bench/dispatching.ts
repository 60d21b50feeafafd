import { setTimeout as pause } from 'node:timers/promises'
import { DatabaseClaims } from '@/runner/database-claims'
import { Dispatcher } from '@/runner/stations/dispatcher'
import { connect } from '@/runner/stations/redis'
import { openContext } from '@/services/context'
import { findRun } from '@/store/runs'

/*
 * The main machine's part in work that stations do, by itself in a process: what it costs. Told by message where; says
 * how far it is when asked.
 */

export interface DispatchingWork {
  readonly url: string
  readonly build: string
  readonly runId: string
  readonly environment: NodeJS.ProcessEnv
}

export interface DispatchingAnswer {
  readonly done: number
  /** Of this process, since it began. */
  readonly cpuMs: number
}

process.once('message', async ({ url, build, runId, environment }: DispatchingWork) => {
  const { db } = openContext(environment)
  const redis = connect({ url })
  const dispatcher = new Dispatcher(new DatabaseClaims(db, 'stations', {}), {
    redis,
    application: 'bench',
    build: { id: build, version: '0' },
    sign: () => ({ roots: [{ path: '/', real: '/', sign: 's' }], addresses: [], secret: 's' }),
  })
  dispatcher.start()
  process.on('message', async () => {
    await pause(0)
    const { user, system } = process.cpuUsage()
    process.send?.({ done: findRun(db, runId)?.done ?? 0, cpuMs: (user + system) / 1000 } satisfies DispatchingAnswer)
  })
  process.send?.('ready')
})
