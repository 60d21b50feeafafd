import { readdirSync, readFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { expect, test } from '@playwright/test'
import exifr from 'exifr'
import jpegJs from 'jpeg-js'
import { deltaE00 } from '@/colour/delta-e'
import { srgb8ToLab } from '@/colour/lab'
import { decodePicture } from '@/files/decode'
import { sha256 } from '@/files/placing'
import type { ShelfMacro } from '@/services/macros'
import { renderSteps } from '../render'
import { addStep, beadNames, openEmptyBench, setNumber, settled, stagePixels } from './bench'

/* The whole line: record on one picture, keep, make a loop, run it, open what was delivered with other libraries. */

const root = resolve('.build/browser-data/demo')
const intake = join(root, 'pictures', 'tiles')
const delivery = join(root, 'delivered', 'whole-line')
const hashes = () => readdirSync(intake).map((name) => [name, sha256(readFileSync(join(intake, name)))])

test('from a recorded edit to a finished folder', async ({ page, context }) => {
  const before = hashes()

  await test.step('record six kinds of edit', async () => {
    await openEmptyBench(page)
    await page.getByRole('button', { name: 'Open a picture' }).click()
    const dialog = page.getByRole('dialog')
    await dialog.getByRole('button', { name: 'One folder up' }).click()
    await dialog.getByRole('button', { name: /tiles/ }).click()
    await dialog.getByRole('button', { name: 'TLK27_0429.jpg' }).click()
    await settled(page)
    await page.getByRole('button', { name: 'Record' }).click()
    await expect(page.getByRole('status', { name: 'Recording' })).toContainText('Recording into')
    const name = page.getByRole('textbox', { name: 'Name of the macro' })
    await name.fill('Tile pages')
    await name.press('Enter')
    await addStep(page, 'Exposure')
    await setNumber(page, 'Exposure', 0.35)
    await addStep(page, 'Levels')
    await setNumber(page, 'White', 246)
    await addStep(page, 'Saturation')
    await setNumber(page, 'Saturation', 15)
    await addStep(page, 'Crop')
    await page.getByRole('button', { name: '5 : 4' }).click()
    await addStep(page, 'Resize')
    await setNumber(page, 'Length', 700)
    await addStep(page, 'Unsharp mask')
    await setNumber(page, 'Amount', 60)
    await expect(page.getByRole('status', { name: 'Recording' })).toContainText('6 steps')
    await page.getByRole('button', { name: 'Stop', exact: true }).click()
    await expect(page.getByText('On the shelf as a draft. What is it called?')).toBeVisible()
    await page.keyboard.press('Escape')
    expect(await beadNames(page)).toEqual(['Exposure', 'Levels', 'Saturation', 'Crop', 'Resize', 'Unsharp mask'])
    await expect(page.locator('[data-bead]').first()).toContainText('+0.35 EV')
    await expect(page.locator('[data-bead] canvas[data-drawn]')).toHaveCount(6)
  })

  await test.step('a reload loses nothing; undo and redo still go all the way', async () => {
    await page.reload()
    await settled(page)
    expect(await beadNames(page)).toHaveLength(6)
    await page.keyboard.press('Control+z')
    await page.keyboard.press('Control+z')
    await expect(page.locator('[data-bead]').last()).toContainText('90 %')
    await page.keyboard.press('Control+Shift+z')
    await page.keyboard.press('Control+Shift+z')
    await expect(page.locator('[data-bead]').last()).toContainText('60 %')
  })

  await test.step('keep it as a macro', async () => {
    await page.getByRole('button', { name: 'Keep as macro' }).click()
    await expect(page.getByLabel('Name of the macro')).toHaveValue('Tile pages')
    await page.getByRole('button', { name: 'Keep', exact: true }).click()
    await expect(page.getByText('Kept as Tile pages r1')).toBeVisible()
  })

  await page.getByText('100 %', { exact: true }).click()
  await settled(page)
  const bench = await stagePixels(page)

  await test.step('at 100 % the browser shows, to the bit, what the same kernels make in Node', async () => {
    const macros: ShelfMacro[] = await (await page.request.get('/api/macros')).json()
    const macro = macros.find((candidate) => candidate.name === 'Tile pages')
    const path = join(intake, 'TLK27_0429.jpg')
    const { pixels, size } = await renderSteps((await decodePicture(readFileSync(path), path)).source, macro?.steps ?? [], true, 'hue')
    const [left, top] = [Math.round((size.width - bench.width) / 2), Math.round((size.height - bench.height) / 2)]
    let different = 0
    for (let y = 0; y < bench.height; y++)
      for (let x = 0; x < bench.width; x++)
        for (let channel = 0; channel < 3; channel++)
          if (bench.data[(y * bench.width + x) * 4 + channel] !== pixels[((y + top) * size.width + x + left) * 3 + channel]) different++
    expect(different).toBe(0)
  })

  await test.step('make a loop and see what will happen', async () => {
    await page.goto('/loops')
    await page.getByRole('button', { name: 'plus New loop' }).click()
    await page.getByLabel('Name of the loop').fill('Tiles for the shop')
    await expect(page.getByText('Choose the folder to take pictures from.')).toBeVisible()
    await page.getByLabel('Intake folder', { exact: true }).fill(intake)
    await page.getByRole('combobox', { name: 'Add a macro' }).click()
    await page.locator('.ant-select-item-option', { hasText: 'Tile pages' }).click()
    await page.keyboard.press('Escape')
    await page.getByLabel('Delivery folder', { exact: true }).fill(join(intake, 'inside'))
    await expect(page.getByText(/lies inside the intake folder/)).toBeVisible()
    await expect(page.getByRole('button', { name: 'Run loop' })).toBeDisabled()
    await page.getByLabel('Delivery folder', { exact: true }).fill(delivery)
    await page.getByLabel('Quality', { exact: true }).fill('95')
    await page.getByRole('combobox', { name: 'Names', exact: true }).fill('{folder}-{n:01}-{name:lower}')
    await expect(page.getByText('5 pictures in 1 folder')).toBeVisible()
    await expect(page.getByRole('region', { name: 'What will happen' }).getByText('tiles-02-tlk27_0429.jpg')).toBeVisible()
    // As an example beside its pattern, too.
    await expect(page.getByText('tiles-02-tlk27_0429.jpg')).toHaveCount(2)
    await expect(page.getByText(/→ 700 × 560/).first()).toBeVisible()
  })

  await test.step('run it, close the browser, come back, watch', async () => {
    await page.getByRole('button', { name: 'Run loop' }).click()
    await expect(page).toHaveURL(/\/runs\/.+/)
    const address = page.url()
    await page.close()
    const later = await context.newPage()
    await later.goto(address)
    await expect(later.getByText(/5 originals unchanged/)).toBeVisible({ timeout: 120_000 })
    await expect(later.getByText('Done', { exact: true })).toBeVisible()
    await expect(later.getByRole('button', { name: /tiles-0\d-.*, done/ })).toHaveCount(5)
    await later.close()
  })

  await test.step('the delivered files are right', async () => {
    const names = readdirSync(delivery).sort()
    expect(names).toEqual([
      'tiles-01-tlk27_0428.jpg',
      'tiles-02-tlk27_0429.jpg',
      'tiles-03-tlk27_0430.jpg',
      'tiles-04-tlk27_0431.jpg',
      'tiles-05-tlk27_0433.jpg',
    ])
    for (const name of names) {
      const file = readFileSync(join(delivery, name))
      const { width, height } = jpegJs.decode(file, { useTArray: true })
      expect([width, height].sort()).toEqual([560, 700])
      expect(await exifr.parse(file, { icc: true, translateValues: false } as never)).toMatchObject({
        ProfileDescription: 'sRGB',
        Orientation: 1,
      })
    }
    const { data, width } = jpegJs.decode(readFileSync(join(delivery, 'tiles-02-tlk27_0429.jpg')), { useTArray: true })
    const [left, top] = [Math.round((width - bench.width) / 2), Math.round((560 - bench.height) / 2)]
    let sum = 0
    for (let y = 0; y < bench.height; y++)
      for (let x = 0; x < bench.width; x++) {
        const [a, b] = [(y * bench.width + x) * 4, ((y + top) * width + x + left) * 4]
        const colour = (from: ArrayLike<number>, at: number) => srgb8ToLab([from[at] ?? 0, from[at + 1] ?? 0, from[at + 2] ?? 0])
        sum += deltaE00(colour(bench.data, a), colour(data, b))
      }
    const mean = sum / (bench.width * bench.height)
    console.log(`mean ΔE00 between the bench at 100 % and the delivered JPEG: ${mean.toFixed(3)}`)
    expect(mean).toBeLessThan(1)
  })

  expect(hashes()).toEqual(before)
})
