import { resolve } from 'node:path'
import { expect, type Page } from '@playwright/test'

/* What a person does at the bench, in their own words. */

/** Lays the demo's red vase on the bench. */
export async function layVase(page: Page): Promise<void> {
  const samplePath = resolve('.build/browser-data/demo/pictures/vessels/TLK27_0422.jpg')
  await page.request.post('/api/bench/laid', { data: { samplePath } })
}

/** Opens the bench with the vase on it, nothing on the wire, and no recording under way. */
export async function openEmptyBench(page: Page): Promise<void> {
  await layVase(page)
  await page.goto('/bench')
  await settled(page)
  const stop = page.getByRole('button', { name: 'Stop', exact: true })
  if (await stop.isVisible()) await stop.click()
  const beads = page.locator('[data-bead]')
  while ((await beads.count()) > 0) {
    const before = await beads.count()
    await beads.first().click()
    await page.getByRole('button', { name: 'Remove this step' }).click()
    await expect(beads).toHaveCount(before - 1)
  }
}

/** The newest picture that was asked for is there, and no newer one has come for a moment. */
export async function settled(page: Page): Promise<void> {
  const canvas = page.getByRole('img', { name: 'The picture after the steps' })
  await expect(canvas).toHaveAttribute('data-render', /\d+/)
  let before = ''
  await expect
    .poll(
      async () => {
        const now = (await canvas.getAttribute('aria-busy')) === 'false' ? ((await canvas.getAttribute('data-render')) ?? '') : 'busy'
        const same = now !== 'busy' && now === before
        before = now
        return same
      },
      { intervals: [350] },
    )
    .toBe(true)
}

export async function addStep(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: 'Add a step' }).click()
  await page.getByLabel('Find an operation').fill(name)
  await page.keyboard.press('Enter')
  await expect(page.getByRole('complementary', { name: 'Desk' }).getByRole('heading', { name, exact: true })).toBeVisible()
}

/** Types a number into a setting's field and leaves it. */
export async function setNumber(page: Page, label: string, value: number): Promise<void> {
  const field = page.getByRole('spinbutton', { name: label, exact: true })
  await field.fill(String(value))
  await field.press('Enter')
}

/** The picture on the stage as the canvas holds it: RGBA. */
export async function stagePixels(page: Page): Promise<{ width: number; height: number; data: Buffer }> {
  const picture = await page.getByRole('img', { name: 'The picture after the steps' }).evaluate((element) => {
    const canvas = element as HTMLCanvasElement
    const image = canvas.getContext('2d')?.getImageData(0, 0, canvas.width, canvas.height)
    let binary = ''
    for (const byte of image?.data ?? []) binary += String.fromCharCode(byte)
    return { width: canvas.width, height: canvas.height, encoded: btoa(binary) }
  })
  return { ...picture, data: Buffer.from(picture.encoded, 'base64') }
}

export const beadNames = (page: Page): Promise<string[]> => page.locator('[data-bead] b').allTextContents()
