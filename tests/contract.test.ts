import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import * as yup from 'yup'
import { framed, unframed } from '@/contract/framing'
import { addressOf, route } from '@/contract/route'
import { routes } from '@/contract/routes'
import { serve } from '@/web/http'

const root = 'src/app/api'
const files = readdirSync(root, { recursive: true, encoding: 'utf8' }).filter((name) => name.endsWith('route.ts'))

describe('the contract', () => {
  it('has every route that is served, and each of them is served where it says', () => {
    const served = files.flatMap((name) =>
      [...readFileSync(`${root}/${name}`, 'utf8').matchAll(/export (?:const|function) (GET|POST|DELETE)/g)].map(
        ([, method]) => `${method} /api/${name.replace(/\/?route\.ts$/, '')}`,
      ),
    )
    expect(served.length).toBeGreaterThan(40)
    expect(served.sort()).toEqual(
      Object.values(routes)
        .map(({ method, path }) => `${method} ${path}`)
        .sort(),
    )
  })
  it('is what each of them is served by: its own entry, at its own address', () => {
    for (const name of files.filter((file) => !file.startsWith('events/'))) {
      const text = readFileSync(`${root}/${name}`, 'utf8')
      for (const [, method, entry = ''] of text.matchAll(/export const (GET|POST|DELETE) = serve\(routes\.(\w+)/g))
        expect(routes[entry as keyof typeof routes], entry).toMatchObject({ method, path: `/api/${name.replace(/\/?route\.ts$/, '')}` })
    }
  })
})

describe('an address', () => {
  const run = route<number>()('GET', '/api/runs/[id]/steps', { query: yup.object({ before: yup.number().integer().min(1).required() }) })
  it('has its parts and its query filled in, encoded', () => {
    expect(addressOf(run, { id: 'a b/ø', before: 7 })).toBe('/api/runs/a%20b%2F%C3%B8/steps?before=7')
    expect(addressOf(run, { id: 'a', before: undefined })).toBe('/api/runs/a/steps')
  })
  const ask = async (query: string) => {
    const answer = await serve(run, ({ asked }) => asked.before + asked.id.length)(new Request(`http://127.0.0.1/x?${query}`), {
      params: Promise.resolve({ id: 'abc' }),
    })
    return { status: answer.status, body: await answer.json() }
  }
  it('is read as its schema says: numbers are numbers', async () => expect(await ask('before=4')).toEqual({ status: 200, body: 7 }))
  it.each(['', 'before=', 'before=0', 'before=1.5', 'before=seven', 'before=1e999'])('with %j behind the ? is refused', async (query) => {
    expect(await ask(query)).toMatchObject({ status: 400, body: { code: 'badRequest', sentence: expect.stringContaining('before') } })
  })
})

describe('framed numbers', () => {
  it.each(['', 'a', 'ab', 'abc', 'grün'])('come back, wherever the header %j ends', (name) => {
    const numbers = Uint16Array.of(1, 40_000, 65_535)
    const sent = framed({ name }, [numbers, Uint8Array.of(9)])
    const { header, at } = unframed<{ name: string }>(sent.buffer)
    expect(header).toEqual({ name })
    expect([...new Uint16Array(sent.buffer, at, 3)]).toEqual([...numbers])
    expect(sent.at(-1)).toBe(9)
  })
})
