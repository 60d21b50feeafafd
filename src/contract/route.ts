import type * as yup from 'yup'
import type { ReadonlyDeep } from '@/base/schema'

/*
 * What page and server agree on: one `Route` for each address and method. The page asks with it, the server serves with it,
 * so neither can come to mean something else than the other.
 */

export type Method = 'GET' | 'POST' | 'DELETE'

/** An answer that is bytes, lines or a file: not JSON. */
export type Raw = Response

/** Names of a path's variable parts: `id` of `/api/runs/[id]`. */
export type PartsOf<Path extends string> = Path extends `${string}[${infer Name}]${infer Rest}` ? Name | PartsOf<Rest> : never

/** An address: what is asked of it, and what it answers. The answer is known as a type alone. */
export interface Route<Path extends string, Answer, Body, Query> {
  readonly method: Method
  /** As the folders of src/app are called: `/api/runs/[id]`. */
  readonly path: Path
  readonly body?: yup.ISchema<Body>
  /** What stands behind `?`; numbers are read from text. */
  readonly query?: yup.ISchema<Query>
  readonly answer?: Answer
}

/** `route<Answer>()('POST', '/api/runs', { body: schema })`. */
export const route =
  <Answer = null>() =>
  <const Path extends string, Body = undefined, Query = undefined>(
    method: Method,
    path: Path,
    { body, query }: { readonly body?: yup.ISchema<Body>; readonly query?: yup.ISchema<Query> } = {},
  ): Route<Path, Answer, Body, Query> => ({ method, path, body, query })

/** What is asked: the path's variable parts and the query together, and the body. */
export type Asked<Path extends string, Query> = { readonly [Part in PartsOf<Path>]: string } & (Query extends undefined
  ? unknown
  : ReadonlyDeep<Query>)

/** The address with its variable parts and its query filled in; absent values are left out. */
export function addressOf<Path extends string, Query>(
  { path }: Pick<Route<Path, unknown, unknown, Query>, 'path'>,
  asked: Readonly<Record<string, string | number | undefined>>,
): string {
  const inPath = new Set<string>()
  const filled = path.replace(/\[(\w+)\]/g, (_, name: string) => {
    inPath.add(name)
    return encodeURIComponent(String(asked[name]))
  })
  const query = new URLSearchParams(
    Object.entries(asked).flatMap(([key, value]) => (value === undefined || inPath.has(key) ? [] : [[key, String(value)]])),
  )
  return query.size > 0 ? `${filled}?${query}` : filled
}
