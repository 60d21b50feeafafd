import { readFileSync } from 'node:fs'
import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { expect, test } from '@playwright/test'
import sharp from 'sharp'
import { intakeOf } from '@/jobs/loop'
import { newStep } from '@/macros/step'
import { addStep, openEmptyBench, settled } from './bench'
import { keepMacro, root, saveLoop } from './loops'
import { soak } from './soak'

/* Pictures of a set are brought together: foreseen on the bench from the tray, told before a run, and kept for later ones. */

const scene = join(root, 'pictures', 'vessels', 'TLK27_0440.jpg')
const meanOf = async (path: string): Promise<number> => (await sharp(readFileSync(path)).stats()).channels[1]?.mean ?? 0

test('the bench foresees from the tray what evens the set out', soak, async ({ page }) => {
  await openEmptyBench(page)
  await page.getByRole('button', { name: 'Pick a spread' }).click()
  await page.getByRole('button', { name: 'Take this folder' }).click()
  const tray = page.getByRole('complementary', { name: 'Samples' })
  await expect(tray.locator('canvas[data-sample]').nth(3)).toBeVisible()
  await addStep(page, 'Even out the set')
  await settled(page)
  const desk = page.getByRole('complementary', { name: 'Desk' })
  // Of whichever picture lies there, the middle of five is not the picture itself.
  await expect(desk).toContainText(/EV (brighter|darker)|light (warmer|cooler)/)
  await desk.getByText('Picked picture').click()
  await expect(desk.getByRole('button', { name: 'Take from this picture' })).toBeEnabled()
  await expect(desk).not.toContainText(/EV (brighter|darker)|light (warmer|cooler)/)
})

test('a loop tells to what it evens its set out, delivers it so, and measures it anew when told to', async ({ page }) => {
  const folder = join(root, 'takes')
  await mkdir(folder, { recursive: true })
  const small = sharp(scene).resize(600)
  for (const [name, gain] of Object.entries({ darker: 0.8, middle: 1, brighter: 1.25 }))
    await small
      .clone()
      .linear(gain, 0)
      .jpeg({ quality: 92 })
      .toFile(join(folder, `${name}.jpg`))
  const macro = await keepMacro(page, 'Evened', [newStep('even-out', 'even')])
  await saveLoop(page, { id: 'evened', name: 'Evened', intake: intakeOf(folder), macros: [{ macroId: macro.id, revision: null }] })
  await page.goto('/loops/evened')
  await expect(page.getByText('Evened out to the middle of 3 pictures, which will be kept for later runs.')).toBeVisible()
  await page.getByRole('button', { name: 'Run loop' }).click()
  await expect(page.getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })
  const spread = async (of: string): Promise<number> => {
    const means = await Promise.all(['darker', 'middle', 'brighter'].map((name) => meanOf(join(of, `${name}.jpg`))))
    return Math.max(...means) - Math.min(...means)
  }
  expect(await spread(folder)).toBeGreaterThan(30)
  expect(await spread(join(root, 'delivered', 'evened'))).toBeLessThan(4)

  await sharp(scene).resize(600).linear(0.5, 0).jpeg().toFile(join(folder, 'new.jpg'))
  await page.goto('/loops/evened')
  await expect(page.getByText('There are 4 now; the new ones are brought to the same.')).toBeVisible()
  await page.getByRole('button', { name: 'Measure the set anew' }).click()
  await expect(page.getByText('Evened out to the middle of 4 pictures, which will be kept for later runs.')).toBeVisible()
})
