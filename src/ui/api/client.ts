import type { ErrorReport } from '@/base/errors'

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

async function ask(path: string, init?: RequestInit): Promise<Response> {
  const response = await fetch(path, init).catch((error) => {
    if (init?.signal?.aborted) throw error
    throw new ApiError(
      { code: 'internal', details: { reason: 'no answer' } },
      'Copper Loop does not answer. Is it still running in its terminal?',
      0,
    )
  })
  if (response.ok) return response
  const body = await response.json().catch(() => null)
  throw new ApiError(body ?? { code: 'internal', details: {} }, body?.sentence ?? response.statusText, response.status)
}

const send = async <T>(path: string, init?: RequestInit): Promise<T> => (await ask(path, init)).json() as Promise<T>

const jsonBody = (body: unknown, headers: Readonly<Record<string, string>> = {}): RequestInit => ({
  method: 'POST',
  headers: { 'Content-Type': 'application/json', ...headers },
  body: JSON.stringify(body),
})

export const get = <T>(path: string): Promise<T> => send<T>(path)
export const remove = (path: string): Promise<void> => send(path, { method: 'DELETE' })
export const post = <T>(path: string, body: unknown = {}, headers?: Readonly<Record<string, string>>): Promise<T> =>
  send<T>(path, jsonBody(body, headers))

/** For the last moment of a page: goes on after the page is gone; nobody waits for the answer. */
export const postWhileLeaving = (path: string, body: unknown, headers?: Readonly<Record<string, string>>): void =>
  void fetch(path, { ...jsonBody(body, headers), keepalive: true })

/** The lines of JSON that an answer consists of, as they arrive. */
export async function* postForLines<T>(path: string, body: unknown, signal: AbortSignal): AsyncGenerator<T> {
  const response = await ask(path, { ...jsonBody(body), signal })
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (;;) {
    const { done, value } = (await reader?.read()) ?? { done: true, value: undefined }
    if (done) break
    const lines = (rest + value).split('\n')
    rest = lines.pop() ?? ''
    for (const line of lines) yield JSON.parse(line) as T
  }
}

/** A file's bytes as they are. */
export const sendFile = <T>(path: string, file: File): Promise<T> => send<T>(path, { method: 'POST', body: file })

/** `/api/x?path=…` with every value encoded; absent values are left out. */
export function withQuery(path: string, values: Record<string, string | number | undefined>): string {
  const query = new URLSearchParams(Object.entries(values).flatMap(([key, value]) => (value === undefined ? [] : [[key, String(value)]])))
  return query.size > 0 ? `${path}?${query}` : path
}

export const thumbnailUrl = (path: string, edge: number): string => withQuery('/api/pictures/thumbnail', { path, edge })
export const resultUrl = (id: number, edge?: number): string => withQuery(`/api/results/${id}`, { edge })
