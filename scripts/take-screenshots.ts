// Takes the pictures in docs/screenshots from a demo that was just laid out and is served at the address given:
//   COPPER_LOOP_DATA=/tmp/shots COPPER_LOOP_PORT=4190 ./loop demo, then: npx tsx scripts/take-screenshots.ts http://localhost:4190
import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import { chromium, type Page } from '@playwright/test'
import { deliveryForNeed } from '@/jobs/delivery'
import { intakeOf, newLoop } from '@/jobs/loop'

const [base, ...wanted] = process.argv.slice(2)
if (!base) throw new Error('Say where the demo is served, http://localhost:4190 for one.')

const browser = await chromium.launch({ executablePath: process.env.COPPER_LOOP_CHROMIUM ?? '/usr/bin/chromium', args: ['--no-sandbox'] })
const open = async (colorScheme: 'light' | 'dark' = 'light'): Promise<Page> => {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme, baseURL: base })
  await page.addInitScript(() => localStorage.setItem('copper-loop-guide-seen', 'yes'))
  return page
}
const page = await open()
const { roots } = await (await page.request.get('/api/status')).json()
const picture = (path: string): string => join(roots[0], 'pictures', path)
const button = (name: string) => page.getByRole('button', { name, exact: true })

/** The picture on the stage is drawn, and nothing more comes. */
async function settled(on = page): Promise<void> {
  const canvas = on.getByRole('img', { name: 'The picture after the steps' })
  await canvas.waitFor()
  let last = ''
  for (let same = 0; same < 4; ) {
    await on.waitForTimeout(400)
    const [busy, drawn] = await canvas.evaluate((element) => [element.getAttribute('aria-busy'), element.dataset.render ?? ''] as const)
    same = busy !== 'true' && drawn === last ? same + 1 : 0
    last = drawn
  }
}
async function layOnBench(path: string): Promise<void> {
  const { samples } = await (await page.request.get('/api/bench')).json()
  await page.request.post('/api/bench/laid', { data: { samplePath: picture(path), samples } })
  await page.goto('/bench')
  await settled()
}
async function addStep(name: string, settings: Readonly<Record<string, number>> = {}): Promise<void> {
  await button('Add a step').click()
  await page.getByLabel('Find an operation').fill(name)
  await page.keyboard.press('Enter')
  for (const [label, value] of Object.entries(settings)) {
    const field = page.getByRole('spinbutton', { name: label, exact: true })
    await field.fill(String(value))
    await field.press('Enter')
  }
  await settled()
}
type Share = readonly [x: number, y: number]
async function pull(from: Share, to: Share): Promise<void> {
  const box = await page.getByTestId('picture').boundingBox()
  if (!box) throw new Error('There is no picture on the stage.')
  const at = ([x, y]: Share) => [box.x + box.width * x, box.y + box.height * y] as const
  await page.mouse.move(...at(from))
  await page.mouse.down()
  await page.mouse.move(...at(to), { steps: 12 })
  await page.mouse.up()
}
async function emptyWire(): Promise<void> {
  const fresh = button('New wire')
  if (await fresh.isEnabled()) await fresh.click()
}

/** In this order: what one makes, the next may show. */
const shots: Readonly<Record<string, () => Promise<void>>> = {
  recording: async () => {
    await layOnBench('tiles/TLK27_0429.jpg')
    await emptyWire()
    await button('Record').click()
    const name = page.getByLabel('Name of the macro')
    await name.fill('Tile pages')
    await name.press('Enter')
    await addStep('Exposure', { Exposure: 0.25 })
    await addStep('Levels', { White: 244 })
    await addStep('Vibrance')
    await addStep('Unsharp mask')
  },
  bench: async () => {
    await button('Stop').click()
    await page.getByText('What is it called?').waitFor()
    await page.keyboard.press('Enter')
    await page.getByText('Kept as').waitFor()
    await page.getByText('Kept as').waitFor({ state: 'hidden' })
    await page.locator('[data-bead]').first().click()
    await settled()
  },
  'full-size': async () => {
    await page.getByText('100 %', { exact: true }).click()
    await page.getByText('After alone').click()
    await page.getByTitle('Wipe').last().click()
    await page.locator('[data-bead]').last().click()
    await settled()
  },
  'test-strip': async () => {
    await page.keyboard.press('w')
    await page.keyboard.press('f')
    await page.keyboard.press('t')
    await page.waitForTimeout(4000)
  },
  brush: async () => {
    await page.keyboard.press('Escape')
    await layOnBench('kiln-and-yard/TLK27_0402.jpg')
    await emptyWire()
    await addStep('Exposure', { Exposure: 1.2 })
    const limits = page.getByRole('combobox', { name: 'Only on a part of the picture' })
    await limits.click()
    await page.getByTitle('In full on one side of a line').click()
    await settled()
    await limits.click()
    await page.getByTitle('Only where it is brushed.').click()
    await page.getByText('and also').last().click()
    await pull([0.3, 0.7], [0.7, 0.75])
    await button('Show where it applies').click()
    await settled()
  },
  'run-over': async () => {
    await layOnBench('vessels/TLK27_0421.jpg')
    await emptyWire()
    await addStep('Exposure', { Exposure: 0.2 })
    await addStep('Crop')
    await button('Run over a folder').click()
    await page.getByText('The wire is empty.').waitFor({ state: 'hidden' })
    await page.locator('button:enabled', { hasText: /^Run \d+ pictures$/ }).waitFor()
  },
  macros: async () => {
    await page.goto('/macros')
    await page.waitForTimeout(6000)
  },
  macro: async () => {
    await page.getByRole('link', { name: 'Shop listing', exact: true }).click()
    await page.waitForTimeout(3000)
  },
  loop: async () => {
    await page.goto('/loops/demo-shop')
    await page.getByText('files to deliver').waitFor()
    await page.waitForTimeout(2500)
  },
  run: async () => {
    await button('Run loop').click()
    await page.getByText(/originals unchanged/).waitFor({ timeout: 120_000 })
    await page.waitForTimeout(2500)
  },
  report: async () => {
    await page.getByText('Report', { exact: true }).click()
    await page.waitForTimeout(800)
  },
  loops: async () => {
    await page.goto('/loops')
    await page.waitForTimeout(1500)
  },
  runs: async () => {
    await page.request.post('/api/loops/demo-shop/try', { data: {} })
    await page.request.post('/api/loops/demo-shop/run', { data: { startAt: Date.now() + 5 * 3600_000 } })
    await page.waitForTimeout(8000)
    await page.goto('/runs')
    await page.waitForTimeout(2000)
  },
  proof: async () => {
    await page.goto('/loops/demo-shop/proof')
    await page.waitForTimeout(9000)
    for (let i = 0; i < 5; i++) await page.keyboard.press('.')
    await page.waitForTimeout(9000)
  },
  'proof-spread': async () => {
    await page.keyboard.press('d')
    await page.keyboard.press('d')
    await page.waitForTimeout(6000)
  },
  pages: async () => {
    const loop = newLoop('pages', {
      name: 'Firing 27',
      intake: intakeOf(picture('vessels')),
      deliveries: [deliveryForNeed('sheet', 'sheet', join(roots[0], 'delivered', 'pages'))],
    })
    const stored = await page.request.get('/api/loops/pages')
    if (!stored.ok()) await page.request.post('/api/loops', { data: loop })
    await page.goto('/loops/pages')
    await page.getByRole('img', { name: 'Page 1' }).waitFor()
    await page.getByRole('radiogroup', { name: 'Files or pages' }).scrollIntoViewIfNeeded()
    await page.mouse.move(250, 500)
    await page.mouse.wheel(0, 300)
    await page.waitForTimeout(3000)
  },
  page: async () => {
    await button('Run loop').click()
    await page.getByText(/originals unchanged/).waitFor({ timeout: 120_000 })
    const sheet = await page.getByRole('link', { name: /\.pdf$/ }).getAttribute('title')
    // What the paper shows, drawn by a reader from outside.
    if (wanted.length === 0 || wanted.includes('page'))
      execFileSync('pdftoppm', ['-r', '110', '-png', '-singlefile', sheet ?? '', 'docs/screenshots/page'])
  },
  settings: async () => {
    await page.goto('/settings')
    await button('Make a copy').click()
    await page.waitForTimeout(1500)
  },
}

const take = (on: Page, name: string) => on.screenshot({ path: `docs/screenshots/${name}.png` })
for (const [name, prepare] of Object.entries(shots)) {
  await prepare()
  if (name !== 'page' && (wanted.length === 0 || wanted.includes(name))) await take(page, name)
  console.log(name)
}
const dark = await open('dark')
await layOnBench('tiles/TLK27_0429.jpg')
await dark.goto('/bench')
await settled(dark)
if (wanted.length === 0 || wanted.includes('bench-dark')) await take(dark, 'bench-dark')
await browser.close()
