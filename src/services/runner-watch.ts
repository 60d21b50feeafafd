import { Stillness } from '@/base/stillness'
import { isAlive } from '@/processes/alive'
import { listRunners, type StoredRunner } from '@/store/queue'
import { stationsName } from '@/store/stations'
import type { Context } from './context'

/** After this time without a sign of life a runner counts as away. */
const awayMs = 8_000

/** What is known of the runner from its signs of life. */
export interface RunnerState {
  readonly away: boolean
  /** What keeps it from working, in words. */
  readonly trouble: string | null
}

/** Watches runners' signs of life by this process's own steady clock, so that setting the machine's clock does not matter. */
export class RunnerWatch {
  private readonly stillFor: Stillness<string>

  constructor(steadyNow?: () => number) {
    this.stillFor = new Stillness(steadyNow)
  }

  check({ db }: Pick<Context, 'db'>): RunnerState {
    // What goes to stations has troubles of its own, which keep nobody here from working.
    const runners = listRunners(db).filter(({ id }) => id !== stationsName)
    this.stillFor.keepOnly(runners.map(({ id }) => id))
    const there = runners.filter((runner) => this.isThere(runner))
    return { away: there.length === 0, trouble: there.find(({ trouble }) => trouble)?.trouble ?? null }
  }

  private isThere({ id, beatAt, processId }: StoredRunner): boolean {
    return this.stillFor.of(id, beatAt) < awayMs && isAlive(processId)
  }
}

const holder = globalThis as { copperLoopRunnerWatch?: RunnerWatch }

/** How it stands with the runner. */
export function runnerState(context: Pick<Context, 'db'>): RunnerState {
  holder.copperLoopRunnerWatch ??= new RunnerWatch()
  return holder.copperLoopRunnerWatch.check(context)
}
