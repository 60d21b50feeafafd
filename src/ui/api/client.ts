import type { ErrorReport } from '@/core/errors'

/** An error that the server answered with: its code and sentence. */
export class ApiError extends Error {
  override readonly name = 'ApiError'
  constructor(
    readonly report: ErrorReport,
    sentence: string,
    readonly status: number,
  ) {
    super(sentence)
  }
}

async function send<T>(path: string, init?: RequestInit): Promise<T> {
  const response = await fetch(path, init).catch(() => {
    throw new ApiError(
      { code: 'internal', details: { reason: 'no answer' } },
      'Copper Loop does not answer. Is it still running in its terminal?',
      0,
    )
  })
  const body = await response.json().catch(() => null)
  if (!response.ok) throw new ApiError(body ?? { code: 'internal', details: {} }, body?.sentence ?? response.statusText, response.status)
  return body as T
}

export const get = <T>(path: string): Promise<T> => send<T>(path)
export const remove = (path: string): Promise<void> => send(path, { method: 'DELETE' })
export const post = <T>(path: string, body: unknown = {}): Promise<T> =>
  send<T>(path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })

/** A file's bytes as they are. */
export const sendFile = <T>(path: string, file: File): Promise<T> => send<T>(path, { method: 'POST', body: file })

/** `/api/x?path=…` with every value encoded; absent values are left out. */
export function withQuery(path: string, values: Record<string, string | number | undefined>): string {
  const query = new URLSearchParams(Object.entries(values).flatMap(([key, value]) => (value === undefined ? [] : [[key, String(value)]])))
  return query.size > 0 ? `${path}?${query}` : path
}

export const thumbnailUrl = (path: string, edge: number): string => withQuery('/api/pictures/thumbnail', { path, edge })
export const resultUrl = (id: number, edge?: number): string => withQuery(`/api/results/${id}`, { edge })
