import { cpSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { request as httpRequest, type IncomingMessage } from 'node:http'
import { connect } from 'node:net'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { newLoop } from '@/jobs/loop'
import { type TestApplication, testApplication, testLoop } from './application'
import { pause } from './runner-process'
import { type RunningApplication, startApplication } from './web-process'

/* The web's own promises, asked of the running application over its port. */

let app: TestApplication
let application: RunningApplication
beforeAll(async () => {
  app = testApplication()
  cpSync('demo/pictures/vessels/TLK27_0418.jpg', join(app.intake, 'a.jpg'))
  application = await startApplication(app.environment)
})
afterAll(() => application.stop())

/** A picture of so many bytes: noise can't be made smaller. */
async function largePng(edge: number): Promise<Buffer> {
  const noise = Buffer.alloc(edge * edge * 3)
  for (let i = 0; i < noise.length; i++) noise[i] = (i * 2654435761) >>> 24
  return sharp(noise, { raw: { width: edge, height: edge, channels: 3 } })
    .png({ compressionLevel: 0 })
    .toBuffer()
}

const webProcess = (): number => application.children('web.mjs')[0] ?? 0
const openHandles = (): number => readdirSync(`/proc/${webProcess()}/fd`).length
/** Resident memory in MB (Linux, /proc). */
const residentMb = (): number => Number(readFileSync(`/proc/${webProcess()}/status`, 'utf8').match(/VmRSS:\s+(\d+)/)?.[1]) / 1024

/** A request as no browser sends it. */
const raw = (text: string): Promise<string> =>
  new Promise((resolve) => {
    const socket = connect(application.port, '127.0.0.1', () => socket.write(text))
    let answer = ''
    socket.on('data', (bytes) => (answer += bytes))
    socket.on('close', () => resolve(answer))
    socket.on('error', () => resolve(answer))
    setTimeout(() => socket.destroy(), 10_000).unref()
  })
const host = (): string => `Host: 127.0.0.1:${application.port}`

describe('a socket', () => {
  it('that asks to be something else is let go, and none is kept', async () => {
    const before = openHandles()
    const upgrade = `GET /_next/webpack-hmr HTTP/1.1\r\n${host()}\r\nConnection: Upgrade\r\nUpgrade: websocket\r\nSec-WebSocket-Version: 13\r\nSec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==\r\n\r\n`
    for (let round = 0; round < 6; round++) await Promise.all(Array.from({ length: 50 }, () => raw(upgrade)))
    await pause(300)
    expect(openHandles()).toBeLessThan(before + 20)
    expect((await fetch(`${application.address}/api/status`)).status).toBe(200)
  })
})

describe('a request', () => {
  it.each([
    ['TRACE', () => `TRACE /api/status HTTP/1.1\r\n${host()}\r\nConnection: close\r\n\r\n`, 405],
    ['a broken escape', () => `GET /api/folders?path=%E0%A4%A HTTP/1.1\r\n${host()}\r\nConnection: close\r\n\r\n`, 400],
    ['an empty body', () => `POST /api/loops HTTP/1.1\r\n${host()}\r\nContent-Length: 0\r\nConnection: close\r\n\r\n`, 400],
    [
      'an empty picture',
      () => `POST /api/bench/drop?name=a.png HTTP/1.1\r\n${host()}\r\nContent-Length: 0\r\nConnection: close\r\n\r\n`,
      400,
    ],
    ['another site', () => `GET /api/status HTTP/1.1\r\n${host()}\r\nSec-Fetch-Site: cross-site\r\nConnection: close\r\n\r\n`, 403],
  ])('with %s is answered, not obeyed', async (_, text, status) => {
    expect(await raw(text())).toMatch(new RegExp(`^HTTP/1.1 ${status} `))
  })
  it('for a page brings a policy with a sign of its own each time, and its scripts carry it', async () => {
    const pages = await Promise.all([1, 2].map(() => fetch(`${application.address}/bench`)))
    const nonces = pages.map(({ headers }) => headers.get('content-security-policy')?.match(/'nonce-([^']+)'/)?.[1])
    expect(nonces[0]).toBeDefined()
    expect(nonces[0]).not.toBe(nonces[1])
    const html = await pages[0]?.text()
    const inline = [...(html ?? '').matchAll(/<script(?![^>]*\ssrc=)([^>]*)>/g)].map(([, attributes]) => attributes ?? '')
    expect(inline.length).toBeGreaterThan(0)
    for (const attributes of inline) expect(attributes).toContain(`nonce="${nonces[0]}"`)
  })
})

describe('what is sent', () => {
  const drop = (name: string): string => `${application.address}/api/bench/drop?name=${name}`
  it('may be larger than ten megabytes, and arrives whole', async () => {
    const png = await largePng(2200)
    expect(png.length).toBeGreaterThan(14e6)
    const answer = await fetch(drop('large.png'), { method: 'POST', body: new Uint8Array(png) })
    const { path } = await answer.json()
    expect([answer.status, readFileSync(path).equals(png)]).toEqual([200, true])
  })
  it('is refused beyond the limit, measured on what arrives and not on what was announced', async () => {
    const piece = new Uint8Array(1 << 20)
    let sent = 0
    const body = new ReadableStream<Uint8Array>({
      pull: (controller) => {
        if (sent++ < 80) controller.enqueue(piece)
        else controller.close()
      },
    })
    const answer = await fetch(`${application.address}/api/macros/import-file?name=x.zip`, {
      method: 'POST',
      body,
      duplex: 'half',
    } as RequestInit)
    expect([answer.status, (await answer.json()).sentence]).toEqual([400, expect.stringMatching(/larger than 64 MB/)])
  })
  it('shorter than announced is no picture: it is refused, or the connection is', async () => {
    const answer = await raw(
      `POST /api/bench/drop?name=short.png HTTP/1.1\r\n${host()}\r\nContent-Length: 5000\r\nConnection: close\r\n\r\nabc`,
    )
    expect(answer === '' || /^HTTP\/1.1 4/.test(answer)).toBe(true)
    const uploads = join(app.context.dataFolder, 'uploads')
    for (let tries = 0; readdirSync(uploads).length > 0 && tries < 200; tries++) await pause(50)
    expect(readdirSync(uploads)).toEqual([])
    expect(
      readdirSync(join(app.context.dataFolder, 'dropped')).some((name) =>
        readdirSync(join(app.context.dataFolder, 'dropped', name)).includes('short.png'),
      ),
    ).toBe(false)
  })
})

describe('answers in flight', () => {
  it('cost no memory, however slowly they are read', async () => {
    writeFileSync(join(app.intake, 'large.png'), await largePng(5000))
    const before = residentMb()
    const url = `/api/pictures/pixels?path=${encodeURIComponent(join(app.intake, 'large.png'))}`
    const readers: IncomingMessage[] = []
    for (let i = 0; i < 6; i++)
      await new Promise<void>((resolve) => {
        // It is opened, and never read.
        httpRequest({ host: '127.0.0.1', port: application.port, path: url }, (answer) => {
          answer.pause()
          readers.push(answer)
          resolve()
        }).end()
      })
    await pause(500)
    const held = residentMb() - before
    console.log(`6 unread answers of 75 MB: ${Math.round(held)} MB more in the web's process`)
    expect(readers.map(({ statusCode }) => statusCode)).toEqual(Array.from({ length: 6 }, () => 200))
    expect(held).toBeLessThan(150)
    for (const reader of readers) reader.destroy()
  })
})

describe('two windows on one loop', () => {
  it('do not undo each other: the second is told', async () => {
    const loop = newLoop('two', { name: 'First' })
    const save = (part: Partial<typeof loop>, window: string): Promise<Response> =>
      fetch(`${application.address}/api/loops`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', 'X-Copper-Loop-Window': window },
        body: JSON.stringify({ ...loop, ...part }),
      })
    expect(await (await save({}, 'a')).json()).toMatchObject({ version: 1 })
    expect(await (await save({ name: 'By a', version: 1 }, 'a')).json()).toMatchObject({ version: 2 })
    const late = await save({ name: 'By b', version: 1 }, 'b')
    expect([late.status, (await late.json()).code]).toEqual([409, 'loopMoved'])
  })
  it('are told of many runs a page at a time', async () => {
    testLoop(app)
    const page = await (await fetch(`${application.address}/api/runs?before=3`)).json()
    expect(page).toEqual({ runs: [], before: null })
    expect((await fetch(`${application.address}/api/runs?before=nothing`)).status).toBe(400)
  })
})
