import { cpus } from 'node:os'
import { setTimeout as pause } from 'node:timers/promises'

/** Median of several timings of one piece of work, in milliseconds; the first, which compiles, is thrown away. */
export async function medianMs(times: number, work: () => unknown): Promise<number> {
  const taken: number[] = []
  for (let i = 0; i <= times; i++) {
    const started = performance.now()
    await work()
    taken.push(performance.now() - started)
  }
  return taken.slice(1).sort((a, b) => a - b)[Math.floor((times - 1) / 2)] ?? Number.NaN
}

/** Medians of alternatives, measured turn by turn so that a busy moment of the machine meets all alike. */
export async function medianOfTurns(times: number, works: readonly (() => unknown)[]): Promise<number[]> {
  const taken = works.map((): number[] => [])
  for (let i = 0; i <= times; i++)
    for (const [w, work] of works.entries()) {
      const started = performance.now()
      await work()
      if (i > 0) taken[w]?.push(performance.now() - started)
    }
  return taken.map((list) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? Number.NaN)
}

/** Waits until the machine has little to do, as after work that was called off; no longer than a minute. */
export async function untilIdle(): Promise<void> {
  const spent = () => {
    const times = cpus().map((cpu) => cpu.times)
    const idle = times.reduce((sum, time) => sum + time.idle, 0)
    return { idle, all: idle + times.reduce((sum, { user, nice, sys, irq }) => sum + user + nice + sys + irq, 0) }
  }
  for (let seconds = 0; seconds < 60; seconds += 2) {
    const before = spent()
    await pause(2000)
    const after = spent()
    if (after.idle - before.idle > 0.85 * (after.all - before.all)) return
  }
}

export interface Row {
  readonly what: string
  readonly measured: string
  readonly goal: string
  readonly met: boolean
}

/** One Markdown table of all rows. */
export function table(rows: readonly Row[]): string {
  const lines = rows.map(({ what, measured, goal, met }) => `| ${what} | ${measured} | ${goal} | ${met ? 'yes' : 'no'} |`)
  return ['| what | measured | goal | met |', '| --- | --- | --- | --- |', ...lines].join('\n')
}
