import { readFileSync } from 'node:fs'
import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { expect, type Page, test } from '@playwright/test'
import sharp from 'sharp'
import { intakeOf } from '@/jobs/loop'
import { newStep } from '@/macros/step'
import { keepMacro, root, saveLoop } from './loops'

/* A set looked through and put right at the keyboard, and only what was changed delivered again. */

const names = ['one', 'two', 'three'] as const
const delivered = (name: string): string => join(root, 'delivered', 'proof', `${name}.jpg`)
/** Mean of the green of what lies there now: given a path, libvips may answer from what it read before. */
const meanOf = async (file: string): Promise<number> => (await sharp(readFileSync(file)).stats()).channels[1]?.mean ?? 0

/** Three upright pictures, each with a red band over its upper third, and a loop that makes squares of them. */
async function loopOfSquares(page: Page): Promise<void> {
  const folder = join(root, 'proof')
  await mkdir(folder, { recursive: true })
  const band = await sharp({ create: { width: 400, height: 200, channels: 3, background: '#a03020' } })
    .png()
    .toBuffer()
  for (const [at, name] of names.entries())
    await sharp({ create: { width: 400, height: 600, channels: 3, background: { r: 90 + 10 * at, g: 120, b: 120 } } })
      .composite([{ input: band, left: 0, top: 0 }])
      .jpeg({ quality: 95 })
      .toFile(join(folder, `${name}.jpg`))
  const macro = await keepMacro(page, 'Squares', [
    newStep('crop', 'square', { ratioWidth: 1, ratioHeight: 1, position: 'place', positionXPercent: 50, positionYPercent: 50 }),
  ])
  await saveLoop(page, { id: 'proof', name: 'Squares', intake: intakeOf(folder), macros: [{ macroId: macro.id, revision: null }] })
}

async function runIsDone(page: Page): Promise<void> {
  await expect(page.getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })
}

test('a set is put right at the keyboard, and just the changed ones are delivered again, in their own places', async ({ page }) => {
  await loopOfSquares(page)
  await page.goto('/loops/proof')
  await page.getByRole('button', { name: 'Run loop' }).click()
  await runIsDone(page)
  const before = new Map(names.map((name) => [name, readFileSync(delivered(name))]))
  const lightBefore = await meanOf(delivered('three'))

  await page.getByRole('link', { name: 'Proof' }).click()
  await expect(page.getByRole('heading', { name: /^Proof of run \d+ · Squares$/ })).toBeVisible()
  const own = page.getByRole('list', { name: 'Of its own' })
  await expect(own).toHaveText('As the loop makes it')
  const desk = page.getByRole('complementary', { name: 'This picture' })
  await expect(desk.getByRole('heading')).toHaveText('one.jpg')
  await page.keyboard.press('g')
  await expect(desk.getByRole('heading')).toHaveText('three.jpg')
  await page.keyboard.press('n')
  await page.keyboard.press('n')
  await expect(own).toContainText('0.33 EV darker')
  await page.keyboard.press('.')
  await expect(desk.getByRole('heading')).toHaveText('two.jpg')
  for (let press = 0; press < 10; press++) await page.keyboard.press('ArrowUp')
  await expect(own).toContainText('frame 20 % higher')
  await page.keyboard.press('Control+z')
  await expect(own).toContainText('frame 18 % higher')
  await page.keyboard.press('Control+Shift+z')
  await expect(own).toContainText('frame 20 % higher')
  await expect(page.getByText('2 touched up')).toBeVisible()
  await page.reload()
  await expect(page.getByText('2 touched up')).toBeVisible()

  await page.getByRole('button', { name: 'Deliver the 2 changed' }).click()
  await runIsDone(page)
  await expect(page.getByText(/2 originals unchanged/)).toBeVisible()
  expect(readFileSync(delivered('one'))).toEqual(before.get('one'))
  expect(await meanOf(delivered('three'))).toBeLessThan(lightBefore - 5)
  // The square's upper edge went up from 100 to 60 of 600: 40 more rows of the red band, which has less green than what is below.
  expect(await meanOf(delivered('two'))).toBeLessThan((await sharp(before.get('two')).stats()).channels[1]?.mean ?? 0)
  expect(await sharp(readFileSync(delivered('two'))).metadata()).toMatchObject({ width: 400, height: 400 })

  await page.goto('/loops/proof/proof')
  await expect(desk.getByRole('heading')).toHaveText('one.jpg')
  await page.keyboard.press('.')
  await page.keyboard.press('x')
  await expect(own).toContainText('set aside')
  await page.keyboard.press('Delete')
  await expect(own).toHaveText('As the loop makes it')
})
