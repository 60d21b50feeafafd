import { type ChildProcess, spawn } from 'node:child_process'
import { afterEach } from 'vitest'
import type { RunSummary } from '@/services/runs/summary'
import { runSummary } from '@/services/runs/summary'
import type { TestApplication } from './application'

/** Starts the built runner for an application, as the supervisor does. */
export function startRunner(app: TestApplication, environment: Readonly<Record<string, string>> = {}): ChildProcess {
  return spawn(process.execPath, ['.build/runner.mjs'], {
    env: { ...app.environment, COPPER_LOOP_LOG: 'silent', ...environment },
    stdio: 'inherit',
  })
}

export const ended = (child: ChildProcess): Promise<void> =>
  child.exitCode !== null || child.signalCode !== null ? Promise.resolve() : new Promise((resolve) => child.once('exit', () => resolve()))

export const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms))

/** Waits until a run satisfies a condition; fails loudly with its state when it takes too long. */
export async function runUntil(
  app: TestApplication,
  id: string,
  condition: (run: RunSummary) => boolean,
  patienceMs = 180_000,
): Promise<RunSummary> {
  const end = Date.now() + patienceMs
  for (;;) {
    const run = runSummary(app.context, id)
    if (condition(run)) return run
    if (Date.now() > end) throw new Error(`The run did not get there: ${JSON.stringify(run)}`)
    await pause(40)
  }
}

export const isDone = (run: RunSummary): boolean => run.state === 'done'

/** Starts runners for a test file's applications, and ends them after each test, whatever came of it. */
export function launchingRunners(): (app: TestApplication, environment?: Readonly<Record<string, string>>) => ChildProcess {
  const running = new Set<ChildProcess>()
  afterEach(async () => {
    for (const child of running) child.kill('SIGKILL')
    await Promise.all([...running].map(ended))
    running.clear()
  })
  return (app, environment = {}) => {
    const child = startRunner(app, environment)
    running.add(child)
    return child
  }
}
