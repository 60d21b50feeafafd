import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { expect, type Page, test } from '@playwright/test'
import sharp from 'sharp'
import { intakeOf } from '@/jobs/loop'
import { newStep } from '@/macros/step'
import { keepMacro, root, saveLoop } from './loops'

/* Siblings in the proof: one is brought among the others, gives what it has to picked ones, is laid on the bench and comes back. */

const count = 5
/** Counted from 0: taken 1.2 stops too dark. */
const darkOne = 2
const darkEv = 1.2

/** Pale ground, wood and a glaze in places of its own: one series, taken by one light. Codes of sRGB. */
function scene(index: number): Buffer {
  const [width, height] = [480, 320]
  const gain = index === darkOne ? 2 ** -darkEv : 1
  const encode = (light: number): number => Math.round(255 * (light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055))
  const pixels = Buffer.alloc(width * height * 3)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const shade = 0.75 + 0.25 * Math.sin(x / 90) * Math.cos(y / 70)
      const isWood = y > 230
      const isGlaze = Math.hypot(x - 120 - 50 * index, y - 170) < 60
      const isHighlight = Math.hypot(x - 100 - 50 * index, y - 150) < 9
      const light = isHighlight ? [0.8, 0.8, 0.8] : isGlaze ? [0.08, 0.14, 0.11] : isWood ? [0.2, 0.12, 0.07] : [0.42, 0.41, 0.38]
      for (const [channel, value] of light.entries()) pixels[(y * width + x) * 3 + channel] = encode(Math.min(1, value * shade * gain))
    }
  return pixels
}

async function loopOfSiblings(page: Page): Promise<void> {
  const folder = join(root, 'siblings')
  await mkdir(folder, { recursive: true })
  for (let i = 0; i < count; i++)
    await sharp(scene(i), { raw: { width: 480, height: 320, channels: 3 } })
      .jpeg({ quality: 95 })
      .toFile(join(folder, `s${i + 1}.jpg`))
  const macro = await keepMacro(page, 'Sibling squares', [
    newStep('exposure', 'lift', { exposureEv: 0.1 }),
    newStep('crop', 'square', { ratioWidth: 1, ratioHeight: 1 }),
  ])
  await saveLoop(page, { id: 'siblings', name: 'Siblings', intake: intakeOf(folder), macros: [{ macroId: macro.id, revision: null }] })
}

test('a picture is brought among its siblings, gives them what it has, and goes to the bench and back', async ({ page }) => {
  await loopOfSiblings(page)
  await page.goto('/loops/siblings/proof')
  await expect(page.getByRole('heading', { name: 'Proof of Siblings' })).toBeVisible()
  const own = page.getByRole('list', { name: 'Of its own' })
  const name = page.getByRole('complementary', { name: 'This picture' }).getByRole('heading')
  await page.locator('canvas').first().waitFor()

  // Like its neighbours: what is told is what it was taken too dark.
  for (let i = 0; i < darkOne; i++) await page.keyboard.press('.')
  await expect(name).toHaveText('s3.jpg')
  await page.keyboard.press('k')
  await expect(own).toContainText('EV brighter')
  const solved = Number(((await own.textContent()) ?? '').match(/([\d.]+) EV brighter/)?.[1])
  expect(Math.abs(solved - darkEv)).toBeLessThan(0.15)
  // One that lies among them stays as it is.
  await page.keyboard.press('.')
  await page.keyboard.press('k')
  await expect(page.getByText('It lies among its neighbours as it is')).toBeVisible()
  await expect(own).toHaveText('As the loop makes it')

  // Dragged by the pointer, the picture goes with it; turned by a tenth of a degree; both taken back as one change each.
  const canvas = page.locator('canvas').first()
  const box = await canvas.boundingBox()
  if (!box) throw new Error('There is no picture')
  await page.mouse.move(box.x + 100, box.y + 100)
  await page.mouse.down()
  await page.mouse.move(box.x + 160, box.y + 100, { steps: 5 })
  await page.mouse.up()
  await expect(own).toContainText(/frame \d+ % further left/)
  await page.keyboard.press('t')
  await expect(own).toContainText('turned by +0.1°')
  await page.keyboard.press('Shift+T')
  await expect(own).not.toContainText('turned')
  await page.keyboard.press('Delete')
  await expect(own).toHaveText('As the loop makes it')

  // Picked ones get the same.
  await page.keyboard.press('p')
  await page.keyboard.press('.')
  await page.keyboard.press('p')
  await page.keyboard.press(',')
  await page.keyboard.press(',')
  await expect(name).toHaveText('s3.jpg')
  await page.keyboard.press('h')
  await expect(page.getByText('2 picked pictures have the same now.')).toBeVisible()
  await expect(page.getByText('3 touched up')).toBeVisible()

  // The spread: each picture a point; a brushed part is all that is looked through then.
  await page.keyboard.press('d')
  await expect(page.getByRole('list', { name: 'The set' }).getByRole('button')).toHaveCount(count)
  await page.keyboard.press('d')
  const plot = page.getByRole('img', { name: /^The spread of 5 pictures/ })
  await expect(plot).toBeVisible()
  const area = await plot.boundingBox()
  if (!area) throw new Error('There is no plot')
  await page.mouse.move(area.x + 50, area.y + 12)
  await page.mouse.down()
  await page.mouse.move(area.x + area.width - 16, area.y + area.height - 28, { steps: 4 })
  await page.mouse.up()
  await expect(page.getByText('5 in the frame')).toBeVisible()
  await page.getByRole('button', { name: 'Show only these' }).click()
  await expect(page.getByRole('button', { name: '5 shown · Show all' })).toBeVisible()
  await page.getByRole('button', { name: '5 shown · Show all' }).click()

  // On the bench its own beads are marked, by a shape and a word; kept for this picture, it is back where it was.
  await page.getByRole('button', { name: 'Open on the bench' }).click()
  await expect(page.getByRole('status', { name: 'A picture of a loop' })).toContainText('this picture only: s3.jpg')
  const beads = page.locator('[data-bead]')
  await expect(beads).toHaveCount(3)
  await expect(beads.first()).toHaveAttribute('aria-label', /Exposure.*this picture only/)
  await expect(beads.nth(1)).not.toHaveAttribute('aria-label', /this picture only/)
  await beads.nth(1).click()
  await page
    .getByRole('textbox', { name: 'Exposure' })
    .or(page.getByRole('spinbutton', { name: 'Exposure' }))
    .first()
    .fill('0.5')
  await page.keyboard.press('Enter')
  await expect(beads.nth(1)).toHaveAttribute('aria-label', /this picture only/)
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await page.getByRole('button', { name: 'Keep', exact: true }).last().click()
  await expect(page.getByRole('heading', { name: 'Proof of Siblings' })).toBeVisible()
  await expect(name).toHaveText('s3.jpg')
  await expect(own).toContainText('0.40 EV brighter')

  // All of it goes out as one file, and comes in again where it was taken back.
  const file = await (await page.request.get('/api/loops/siblings/touch-ups/file')).text()
  expect(JSON.parse(file)).toMatchObject({ format: 'copper-loop/touch-ups', pictures: [{}, {}, {}] })
  await page.getByRole('button', { name: 'More for the whole set' }).click()
  await page.getByText('Take all touch-ups back').click()
  await page.getByRole('button', { name: 'Take all back' }).last().click()
  await expect(page.getByText('0 touched up')).toBeVisible()
  await page
    .getByLabel('File of touch-ups')
    .setInputFiles({ name: 'touch-ups.json', mimeType: 'application/json', buffer: Buffer.from(file) })
  await expect(page.getByText('3 touch-ups taken.')).toBeVisible()
  await expect(page.getByText('3 touched up')).toBeVisible()
  await page.getByLabel('File of touch-ups').setInputFiles({ name: 'broken.json', mimeType: 'application/json', buffer: Buffer.from('{}') })
  await expect(page.getByText(/The file of touch-ups can't be used/)).toBeVisible()
})
