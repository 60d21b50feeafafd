import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type Browser, chromium, type Page } from '@playwright/test'
import type { Row } from './measure'
import { proofRows } from './proof'
import { rawOnBenchRows } from './raw-on-bench'

/*
 * The real application in Chromium: its second start, and how long the picture takes to follow the pointer. Needs the built application.
 * Two CSS pixels a picture pixel make the stage about 2 megapixels, as on a screen of double density.
 */

const port = 4189
const address = `http://127.0.0.1:${port}`
const moves = 40

async function answers(): Promise<boolean> {
  return fetch(`${address}/bench`).then(
    (response) => response.ok,
    () => false,
  )
}

async function start(data: string, lays: boolean): Promise<{ app: ChildProcess; seconds: number }> {
  const started = performance.now()
  const app = spawn('node', ['scripts/supervisor.mjs', String(port), ...(lays ? ['--lay-demo'] : [])], {
    env: { ...process.env, COPPER_LOOP_DATA: data, COPPER_LOOP_LOG: 'warn' },
    stdio: 'ignore',
  })
  while (!(await answers())) await new Promise((resolve) => setTimeout(resolve, 20))
  return { app, seconds: (performance.now() - started) / 1000 }
}

async function stop(app: ChildProcess): Promise<void> {
  const ended = new Promise((resolve) => app.once('exit', resolve))
  app.kill('SIGTERM')
  await ended
}

async function addStep(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: 'Add a step' }).click()
  await page.getByLabel('Find an operation').fill(name)
  await page.keyboard.press('Enter')
  await settled(page)
}

/** Waits until the stage has not been painted anew for a while. */
async function settled(page: Page): Promise<void> {
  const canvas = page.getByTestId('picture').locator('canvas').first()
  let before: string | null = null
  for (let quiet = 0; quiet < 4; ) {
    await page.waitForTimeout(150)
    const now = await canvas.getAttribute('data-render').catch(() => null)
    quiet = now !== null && now === before ? quiet + 1 : 0
    before = now
  }
}

interface Drag {
  /** Pointer event to the frame after the painted picture, median, in milliseconds. */
  readonly medianMs: number
  /** The longest piece of work on the page's own thread meanwhile, in milliseconds. */
  readonly longestTaskMs: number
  readonly megapixels: number
}

/** Drags a slider, one move at a time, and waits for the picture after each. */
async function drag(page: Page, label: string): Promise<Drag> {
  const box = await page.getByRole('slider', { name: label, exact: true }).boundingBox()
  if (!box) throw new Error(`No slider ${label}`)
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.evaluate(() => {
    const bench = { times: [] as number[], moved: 0, longest: 0 }
    ;(window as unknown as { bench: typeof bench }).bench = bench
    window.addEventListener('pointermove', () => (bench.moved = performance.now()), true)
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) bench.longest = Math.max(bench.longest, entry.duration)
    }).observe({ type: 'longtask' })
    const canvas = document.querySelector('[data-testid=picture] canvas') as HTMLCanvasElement
    new MutationObserver(() => requestAnimationFrame(() => bench.times.push(performance.now() - bench.moved))).observe(canvas, {
      attributes: true,
      attributeFilter: ['data-render'],
    })
  })
  for (let i = 1; i <= moves; i++) {
    const painted = await page.evaluate(() => (window as unknown as { bench: { times: number[] } }).bench.times.length)
    await page.mouse.move(x + 4 + i, y)
    await page
      .waitForFunction((count) => (window as unknown as { bench: { times: number[] } }).bench.times.length > count, painted, {
        timeout: 3000,
      })
      .catch(() => undefined)
  }
  await page.mouse.up()
  const { times, longest, size } = await page.evaluate(() => {
    const { bench } = window as unknown as { bench: { times: number[]; longest: number } }
    const canvas = document.querySelector('[data-testid=picture] canvas') as HTMLCanvasElement
    return { times: bench.times, longest: bench.longest, size: canvas.width * canvas.height }
  })
  const sorted = times.slice(2).sort((a, b) => a - b)
  return { medianMs: sorted[sorted.length >> 1] ?? Number.NaN, longestTaskMs: longest, megapixels: size / 1e6 }
}

/** The same way of a pointer with nothing to render at its end: what the browser takes by itself. */
async function idleMs(page: Page): Promise<number> {
  await page.evaluate(() => {
    const idle = { times: [] as number[], moved: 0 }
    ;(window as unknown as { idle: typeof idle }).idle = idle
    const { body } = document
    window.addEventListener('pointermove', () => {
      idle.moved = performance.now()
      body.dataset.idle = String(idle.moved)
    })
    new MutationObserver(() => requestAnimationFrame(() => idle.times.push(performance.now() - idle.moved))).observe(body, {
      attributes: true,
      attributeFilter: ['data-idle'],
    })
  })
  for (let i = 0; i < moves; i++) {
    await page.mouse.move(400 + i, 300)
    await page.waitForTimeout(40)
  }
  const times = await page.evaluate(() => (window as unknown as { idle: { times: number[] } }).idle.times)
  return times.toSorted((a, b) => a - b)[times.length >> 1] ?? Number.NaN
}

/** From letting a slider go to the last picture of the tray painted anew. */
async function trayRefresh(page: Page): Promise<Row> {
  const count = await page.locator('canvas[data-sample]').count()
  const box = await page.getByRole('slider', { name: 'Amount', exact: true }).boundingBox()
  if (!box) throw new Error('No slider Amount')
  await settled(page)
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width / 2 + 12, box.y + box.height / 2)
  const started = await page.evaluate(() => performance.now())
  await page.mouse.up()
  await page.waitForFunction(
    (since) => [...document.querySelectorAll<HTMLElement>('canvas[data-sample]')].every((tile) => Number(tile.dataset.sample) > since),
    started,
  )
  const ms = (await page.evaluate(() => performance.now())) - started
  return {
    what: `${count} pictures of the tray anew after a slider is let go`,
    measured: `${ms.toFixed(0)} ms`,
    goal: '8 within 1000 ms',
    met: (ms * 8) / Math.max(1, count) <= 1000,
  }
}

async function dragRows(browser: Browser, data: string): Promise<Row[]> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, deviceScaleFactor: 2 })
  await page.request.post(`${address}/api/bench/place`, { data: { samplePath: join(data, 'demo/pictures/kiln-and-yard/TLK27_0405.jpg') } })
  await page.goto(`${address}/bench`)
  await settled(page)
  const row = (what: string, { medianMs, megapixels, longestTaskMs }: Drag, goal: number): Row[] => [
    {
      what: `${what}, pointer to paint in Chromium at ${megapixels.toFixed(1)} MP`,
      measured: `${medianMs.toFixed(0)} ms`,
      goal: `≤ ${goal} ms`,
      // To the millisecond that is told: frames come every 16.7.
      met: Math.round(medianMs) <= goal,
    },
    {
      what: `longest task on the page’s own thread meanwhile`,
      measured: longestTaskMs === 0 ? 'under 50 ms' : `${longestTaskMs.toFixed(0)} ms`,
      goal: '≤ 50 ms',
      met: longestTaskMs <= 50,
    },
  ]
  await addStep(page, 'Exposure')
  const point = await drag(page, 'Exposure')
  await addStep(page, 'Unsharp mask')
  const neighbours = await drag(page, 'Amount')
  const tray = await trayRefresh(page)
  await settled(page)
  const idle = await idleMs(page)
  await page.close()
  const least = { what: 'the same with nothing to render: what the browser takes', measured: `${idle.toFixed(0)} ms`, goal: '', met: true }
  return [...row('dragging exposure', point, 16), ...row('dragging an unsharp mask', neighbours, 33), least, tray]
}

export async function browserRows(): Promise<Row[]> {
  const data = mkdtempSync(join(tmpdir(), 'copper-loop-bench-'))
  try {
    await stop((await start(data, true)).app)
    const { app, seconds } = await start(data, false)
    try {
      const rows = await rowsInChromium(data)
      return [
        { what: 'second start of the application to a page', measured: `${seconds.toFixed(1)} s`, goal: '≤ 5 s', met: seconds <= 5 },
        ...rows,
      ]
    } finally {
      await stop(app)
    }
  } finally {
    rmSync(data, { recursive: true, force: true })
  }
}

async function rowsInChromium(data: string): Promise<Row[]> {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-background-networking'],
  })
  try {
    const drags = await dragRows(browser, data)
    return [...drags, ...(await proofRows(browser, address, data)), ...(await rawOnBenchRows(browser, address, data))]
  } finally {
    await browser.close()
  }
}
