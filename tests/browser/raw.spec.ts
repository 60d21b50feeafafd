import { createHash } from 'node:crypto'
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test } from '@playwright/test'
import sharp from 'sharp'
import { beadNames, openEmptyBench, settled } from './bench'
import { root } from './loops'
import { soak } from './soak'

/* From the sensor to the delivery: recorded on a raw file, run over a folder that holds raw files and others. */

const pictures = join(root, 'pictures')
const mixed = join(pictures, 'mixed')
const delivered = join(pictures, 'mixed-web-set')
const hashOf = (path: string): string => createHash('sha256').update(readFileSync(path)).digest('hex')

test.afterAll(() => {
  for (const folder of [mixed, delivered]) rmSync(folder, { recursive: true, force: true })
})

test('light that a JPEG would have lost is found on a raw file, recorded, and run over a mixed folder', async ({ page }) => {
  for (const folder of [mixed, delivered]) rmSync(folder, { recursive: true, force: true })
  mkdirSync(mixed)
  for (const name of ['TLK27_0410.dng', 'TLK27_0422.dng']) cpSync(join('demo/raw', name), join(mixed, name))
  cpSync('demo/pictures/vessels/TLK27_0417.jpg', join(mixed, 'TLK27_0417.jpg'))
  const originals = new Map(readdirSync(mixed).map((name) => [name, hashOf(join(mixed, name))]))

  await openEmptyBench(page)
  await page.request.post('/api/bench/laid', {
    data: { samplePath: join(mixed, 'TLK27_0410.dng'), samples: [join(mixed, 'TLK27_0410.dng')] },
  })
  await page.goto('/bench')
  await settled(page)
  // A picture is made of it without being asked for, by a step that is seen on the wire.
  await expect.poll(() => beadNames(page)).toEqual(['Base curve'])
  await page.getByRole('button', { name: 'Record', exact: true }).click()

  await page.getByRole('button', { name: 'Add a step' }).click()
  await page.keyboard.type('exposure')
  await page.keyboard.press('Enter')
  const exposure = page.getByRole('spinbutton', { name: 'Exposure', exact: true })
  await exposure.fill('-0.9')
  await exposure.press('Enter')
  await settled(page)
  await page.getByRole('button', { name: 'Add a step' }).click()
  await page.keyboard.type('white balance')
  await page.keyboard.press('Enter')
  await settled(page)
  // The light's own numbers, as the camera judged it; and what means the light comes before what makes a picture of it.
  expect(Number((await page.getByRole('spinbutton', { name: 'Temperature', exact: true }).inputValue()).replace(/\D/g, ''))).toBeCloseTo(
    6760,
    -2,
  )
  expect(await beadNames(page)).toEqual(['Exposure', 'White balance', 'Base curve'])

  await page.getByRole('button', { name: 'Run over a folder' }).click()
  await page.getByRole('dialog', { name: 'Run over a folder' }).getByRole('button', { name: 'Run 3 pictures' }).click()
  await expect(page.getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })
  expect(readdirSync(delivered).sort()).toEqual(['TLK27_0410.jpg', 'TLK27_0417.jpg', 'TLK27_0422.jpg'])
  // The sky that lay above white is there.
  const part = await sharp(join(delivered, 'TLK27_0410.jpg')).extract({ left: 600, top: 60, width: 400, height: 200 }).png().toBuffer()
  const sky = await sharp(part).stats()
  const [red = 0, , blue = 0] = sky.channels.map(({ mean }) => mean)
  expect(red).toBeLessThan(250)
  expect(blue).toBeGreaterThan(red + 1)
  const { width, height, exif } = await sharp(join(delivered, 'TLK27_0422.jpg')).metadata()
  expect([width, height]).toEqual([1200, 1800])
  expect(exif?.toString('latin1')).toContain('MO Macro-Zoom')
  for (const [name, hash] of originals) expect(hashOf(join(mixed, name))).toBe(hash)
  expect(readdirSync(mixed)).toHaveLength(3)
})

test('the demo’s raw files are seen as pictures everywhere, and their loop runs', soak, async ({ page }) => {
  await page.goto('/loops/demo-raw')
  await expect(page.getByText('6 pictures').first()).toBeVisible()
  for (const edge of [160, 640]) {
    const answer = await page.request.get('/api/pictures/thumbnail', { params: { path: join(pictures, 'raw', 'TLK27_0422.dng'), edge } })
    expect(answer.ok()).toBe(true)
    const { width = 0, height = 0 } = await sharp(await answer.body()).metadata()
    expect(height).toBe(edge)
    expect(width).toBeLessThan(height)
  }
  await page.goto('/loops/demo-raw/proof')
  await expect(page.getByText('6 pictures').first()).toBeVisible()
  const run = await (await page.request.post('/api/loops/demo-raw/run', { data: {} })).json()
  await page.goto(`/runs/${run.id}`)
  await expect(page.getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })
  const folder = join(root, 'delivered', 'raw')
  expect(readdirSync(folder).filter((name) => name.endsWith('.jpg'))).toHaveLength(6)
  rmSync(folder, { recursive: true, force: true })
})
