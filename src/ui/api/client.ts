import type { ErrorReport } from '@/base/errors'
import type { ReadonlyDeep } from '@/base/schema'
import type { Proof } from '@/contract/answers'
import { type Asked, addressOf, type PartsOf, type Route } from '@/contract/route'
import { routes } from '@/contract/routes'

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

type AnyAsked = Readonly<Record<string, string | number | undefined>>

/** What a call takes besides its route: what is asked, where the route has variable parts or a query; its body, where it has one. */
type Given<Path extends string, Body, Query> = ([PartsOf<Path>, Query] extends [never, undefined]
  ? unknown
  : { readonly asked: Asked<Path, Query> }) &
  (Body extends undefined ? unknown : { readonly body: ReadonlyDeep<Body> })

interface Options {
  readonly headers?: Readonly<Record<string, string>>
  readonly signal?: AbortSignal
  /** Sent as it is, in place of JSON. */
  readonly file?: File
  /** Goes on after the page is gone. */
  readonly keepalive?: boolean
}

/** Where a route is: for pictures and downloads. */
export const urlOf = <Path extends string, Answer, Query>(
  route: Route<Path, Answer, undefined, Query>,
  asked: Asked<Path, Query> & AnyAsked,
): string => addressOf(route, asked)

/** Asks a route. @throws ApiError as the server told it */
export async function ask<Path extends string, Answer, Body, Query>(
  route: Route<Path, Answer, Body, Query>,
  given: Given<Path, Body, Query>,
  { headers, signal, file, keepalive }: Options = {},
): Promise<Response> {
  const { asked, body } = given as { readonly asked?: AnyAsked; readonly body?: unknown }
  const init: RequestInit = {
    method: route.method,
    headers: { ...(body === undefined ? undefined : { 'Content-Type': 'application/json' }), ...headers },
    body: file ?? (body === undefined ? undefined : JSON.stringify(body)),
    signal,
    keepalive,
  }
  const response = await fetch(new URL(addressOf(route, asked ?? {}), self.location.origin), init).catch((error) => {
    if (signal?.aborted) throw error
    throw new ApiError(
      { code: 'internal', details: { reason: 'no answer' } },
      'Copper Loop does not answer. Is it still running in its terminal?',
      0,
    )
  })
  if (response.ok) return response
  const report = await response.json().catch(() => null)
  throw new ApiError(report ?? { code: 'internal', details: {} }, report?.sentence ?? response.statusText, response.status)
}

/** Asks a route and gives what it answers. @throws ApiError as the server told it */
export const call = async <Path extends string, Answer, Body, Query>(
  route: Route<Path, Answer, Body, Query>,
  given: Given<Path, Body, Query>,
  options?: Options,
): Promise<Answer> => (await ask(route, given, options)).json()

/** The lines of JSON that an answer consists of, as they arrive. */
export async function* linesOf<Line>(response: Response): AsyncGenerator<Line> {
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (;;) {
    const { done, value } = (await reader?.read()) ?? { done: true, value: undefined }
    if (done) break
    const lines = (rest + value).split('\n')
    rest = lines.pop() ?? ''
    for (const line of lines) yield JSON.parse(line)
  }
}

export const thumbnailUrl = (path: string, edge: number): string => urlOf(routes.thumbnail, { path, edge })
export const resultUrl = (id: number, edge?: number): string => urlOf(routes.result, { id: String(id), edge })

/** A picture of a proof, small, as it would be delivered now: asked for anew with each version of its touch-up, and of the macros. */
export function proofPictureUrl({ loopId, macros }: Pick<Proof, 'loopId' | 'macros'>, path: string, version: number): string {
  const made = macros.map(({ macroId, revision }) => `${macroId.slice(0, 6)}${revision}`).join('.')
  return urlOf(routes.proofPicture, { id: loopId, path, seen: `${version}.${made}`.slice(0, 64) })
}
