'use client'

import { type QueryClient, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import type { RunSummary } from '@/contract/answers'
import { routes } from '@/contract/routes'
import { isOver, totalOf } from '@/jobs/run'
import { runNews } from '../runs/news'
import { notice } from '../shell/notices'
import { urlOf } from './client'
import { keys } from './queries'

/** Full lists of results are fetched again at most this often while a run goes on: more seldom, the longer they are. */
const refetchMs = 700
const refetchMsPerPicture = 0.5

/** Listens to the server's events and keeps the queries of runs fresh. The browser reconnects by itself. */
export function RunFollower(): null {
  const client = useQueryClient()
  useEffect(() => {
    const source = new EventSource(urlOf(routes.events, {}))
    const pending = new Map<string, ReturnType<typeof setTimeout>>()
    source.addEventListener('run', (event) => takeRun(client, JSON.parse(event.data), pending))
    source.addEventListener('runner', (event) => {
      client.setQueryData(keys.status, (before: object | undefined) => before && { ...before, runner: JSON.parse(event.data) })
    })
    // After a gap anything may have happened.
    source.onopen = () => void client.invalidateQueries({ queryKey: keys.runs })
    // The list is learnt through events, and through answers that may be quicker: both are heard where they end up.
    const news = runNews<RunSummary>()
    const learn = (runs: RunSummary[] | undefined): void => {
      for (const run of runs ? news(runs) : []) notice(run)
    }
    learn(client.getQueryData(keys.runs))
    const unsubscribe = client.getQueryCache().subscribe(({ query, type }) => {
      if (type === 'updated' && query.queryKey.length === 1 && query.queryKey[0] === keys.runs[0]) learn(query.state.data)
    })
    return () => {
      source.close()
      unsubscribe()
      for (const timer of pending.values()) clearTimeout(timer)
    }
  }, [client])
  return null
}

function takeRun(client: QueryClient, run: RunSummary, pending: Map<string, ReturnType<typeof setTimeout>>): void {
  const before = client.getQueryData<RunSummary[]>(keys.runs)?.find(({ id }) => id === run.id)
  client.setQueryData<RunSummary[]>(keys.runs, (runs) => runs?.map((other) => (other.id === run.id ? run : other)))
  // A run that is new, has another state or another place changes the order of all.
  if (before?.state !== run.state || before.turn !== run.turn) void client.invalidateQueries({ queryKey: keys.runs })
  const refetch = (): void => {
    pending.delete(run.id)
    void client.invalidateQueries({ queryKey: keys.run(run.id) })
  }
  const waiting = pending.get(run.id)
  if (waiting && !isOver(run.state)) return
  clearTimeout(waiting)
  pending.set(run.id, setTimeout(refetch, isOver(run.state) ? 0 : refetchMs + refetchMsPerPicture * totalOf(run.totals)))
}
