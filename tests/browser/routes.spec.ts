import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { type APIRequestContext, expect, test } from '@playwright/test'
import fc from 'fast-check'

/* Every route, asked anything: an answer or a clear error, never a breakdown. */

interface Route {
  readonly path: string
  readonly methods: readonly string[]
  readonly parameters: readonly string[]
}

/** All routes, from their files; streams that never end are left out. */
function allRoutes(): Route[] {
  const files = readdirSync('src/app/api', { recursive: true, encoding: 'utf8' }).filter((file) => file.endsWith('route.ts'))
  return files
    .map((file) => {
      const source = readFileSync(join('src/app/api', file), 'utf8')
      return {
        path: `/api/${file.replace(/\/?route\.ts$/, '')}`,
        methods: [...source.matchAll(/export const (GET|POST|DELETE)\b/g)].map(([, method]) => method ?? ''),
        parameters: [...source.matchAll(/(?:required|optional|optionalWhole)\(request, '(\w+)'/g)].map(([, name]) => name ?? ''),
      }
    })
    .filter(({ path }) => path !== '/api/events')
}

const odd = fc.oneof(
  fc.string({ unit: 'grapheme', maxLength: 40 }),
  fc.constantFrom(
    '',
    '..',
    '../../etc/passwd',
    '/etc/passwd',
    '%2e%2e%2f',
    '/dev/zero',
    'demo-shop',
    '-1',
    '1e9',
    'NaN',
    '__proto__',
    'a\0b',
  ),
  fc.integer().map(String),
)
const bodies = fc.oneof(
  fc.json(),
  fc.string({ maxLength: 60 }),
  fc.constantFrom(
    '',
    'null',
    '[]',
    '{"__proto__":{}}',
    '{"path":"/etc/passwd"}',
    '['.repeat(5000),
    '{"steps":[{}]}',
    'PK\u0003\u0004',
    '<svg onload="x"/>',
  ),
)
const segment = (text: string): string => encodeURIComponent(text).replace(/^\.+$/, '%2E') || 'x'

async function ask(request: APIRequestContext, { path, parameters }: Route, method: string, values: readonly string[], body: string) {
  const [id = 'x', ...rest] = values
  const query = new URLSearchParams(parameters.map((name, i) => [name, rest[i] ?? id]))
  const url = `${path.replace(/\[\w+\]/g, segment(id))}?${query}`
  const data = method === 'POST' ? { data: Buffer.from(body), headers: { 'Content-Type': 'application/json' } } : {}
  return { url, answer: await request.fetch(url, { method, ...data }) }
}

test('every route answers anything with a result or a clear error', async ({ request }) => {
  const routes = allRoutes()
  expect(routes.length).toBeGreaterThan(35)
  const before = await (await request.get('/api/loops')).json()
  const statuses = new Map<number, number>()
  for (const route of routes)
    for (const method of route.methods)
      for (const [values, body] of fc.sample(fc.tuple(fc.array(odd, { minLength: 1, maxLength: 4 }), bodies), { numRuns: 8, seed: 11 })) {
        const { url, answer } = await ask(request, route, method, values, body)
        const about = `${method} ${url} ${body.slice(0, 80)} → ${answer.status()} ${(await answer.text()).slice(0, 200)}`
        expect(answer.status(), about).toBeLessThan(500)
        statuses.set(answer.status(), (statuses.get(answer.status()) ?? 0) + 1)
        if (answer.status() < 400) continue
        // What Next refuses before us has no body of ours.
        const told = await answer.json().catch(() => undefined)
        if (told) expect(typeof told.sentence, about).toBe('string')
      }
  console.log(`answers of ${routes.length} routes by status: ${JSON.stringify(Object.fromEntries(statuses))}`)
  expect((await request.get('/api/status')).status()).toBe(200)
  expect(await (await request.get('/api/loops')).json()).toEqual(before)
})
