import { describe, expect, it } from 'vitest'
import type { RunState } from '@/jobs/run'
import { runNews } from './news'

const run = (number: number, state: RunState, reason: string | null = null) => ({ id: `run-${number}`, number, state, reason })
const numbers = (runs: readonly { number: number }[]): number[] => runs.map(({ number }) => number)

describe('news of runs', () => {
  it('is what ends after the first list, each run once', () => {
    const news = runNews()
    expect(news([run(1, 'done'), run(2, 'running')])).toEqual([])
    expect(numbers(news([run(1, 'done'), run(2, 'done')]))).toEqual([2])
    expect(news([run(1, 'done'), run(2, 'done')])).toEqual([])
  })

  it('is there for a run that came and ended between two lists', () => {
    const news = runNews()
    news([])
    expect(numbers(news([run(1, 'done')]))).toEqual([1])
    expect(numbers(news([run(3, 'stopped'), run(2, 'running'), run(1, 'done')]))).toEqual([3])
    expect(numbers(news([run(3, 'stopped'), run(2, 'done'), run(1, 'done')]))).toEqual([2])
  })

  it('is not there for an old run that only now comes into the list', () => {
    const news = runNews()
    news([run(8, 'running')])
    expect(news([run(8, 'running'), run(3, 'done')])).toEqual([])
  })

  it('is a fault every time, a person’s pause never', () => {
    const news = runNews()
    news([run(1, 'running'), run(2, 'running')])
    expect(numbers(news([run(1, 'paused', 'The disk is full.'), run(2, 'paused')]))).toEqual([1])
    news([run(1, 'running'), run(2, 'running')])
    expect(numbers(news([run(1, 'paused', 'The disk is full.'), run(2, 'running')]))).toEqual([1])
  })

  it('is not told again after an answer from before has come late', () => {
    const news = runNews()
    news([run(1, 'running')])
    expect(numbers(news([run(1, 'done')]))).toEqual([1])
    news([run(1, 'running')])
    expect(news([run(1, 'done')])).toEqual([])
  })
})
