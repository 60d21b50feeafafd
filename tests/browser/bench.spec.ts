import { expect, type Page, test } from '@playwright/test'
import { newStep } from '@/macros/step'
import { addStep, beadNames, openEmptyBench, setNumber, settled, stagePixels } from './bench'

test.beforeEach(({ page }) => openEmptyBench(page))

const brightness = async (page: Page): Promise<number> => {
  const { data } = await stagePixels(page)
  return data.reduce((sum, value) => sum + value, 0) / data.length
}

test('the picture follows a slider while it is dragged, and one drag is one undo', async ({ page }) => {
  await addStep(page, 'Exposure')
  await settled(page)
  const before = await brightness(page)
  const handle = page.getByRole('slider', { name: 'Exposure' })
  const box = await handle.boundingBox()
  if (!box) throw new Error('The slider has no handle')
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await page.mouse.down()
  await page.mouse.move(box.x + 20, box.y + 5, { steps: 4 })
  await page.mouse.move(box.x + 40, box.y + 5, { steps: 8 })
  await settled(page)
  const during = await brightness(page)
  expect(during).toBeGreaterThan(before + 3)
  await page.mouse.up()
  await settled(page)
  // While it is held the picture may be drawn smaller.
  expect(Math.abs((await brightness(page)) - during)).toBeLessThan(0.5)
  await expect(page.locator('[data-bead]')).toContainText('EV')
  await page.keyboard.press('Escape')
  await page.locator('body').click({ position: { x: 640, y: 20 } })
  await page.keyboard.press('Control+z')
  await settled(page)
  expect(await brightness(page)).toBeCloseTo(before, 1)
  expect(await beadNames(page)).toEqual(['Exposure'])
})

test('Space shows the original while it is held; wipe shows both', async ({ page }) => {
  await addStep(page, 'Saturation')
  await setNumber(page, 'Saturation', -100)
  await settled(page)
  await page.locator('body').click({ position: { x: 640, y: 20 } })
  await page.keyboard.down('Space')
  await expect(page.getByText('Original', { exact: true })).toBeVisible()
  await page.keyboard.up('Space')
  await expect(page.getByText('Original', { exact: true })).toBeHidden()
  await page.keyboard.press('w')
  const wipe = page.getByRole('slider', { name: 'Wipe' })
  await expect(wipe).toHaveAttribute('aria-valuenow', '50')
  await wipe.focus()
  await page.keyboard.press('ArrowRight')
  await expect(wipe).toHaveAttribute('aria-valuenow', '52')
})

test('edits made without recording stay hollow and can be kept afterwards', async ({ page }) => {
  await addStep(page, 'Exposure')
  await setNumber(page, 'Exposure', 1)
  await expect(page.locator('[data-bead][data-hollow]')).toHaveCount(1)
  await page.getByRole('button', { name: 'Keep as macro' }).click()
  await expect(page.getByRole('button', { name: 'Keep', exact: true })).toBeDisabled()
  await page.getByRole('button', { name: 'Keep it too' }).click()
  await page.getByLabel('Name of the macro').fill('Forgotten')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(page.getByText('Kept as Forgotten r1')).toBeVisible()
  await expect(page.locator('[data-bead][data-hollow]')).toHaveCount(0)
})

test('beads are moved, switched and removed by keyboard, and all of it undoes', async ({ page }) => {
  for (const name of ['Exposure', 'Levels', 'Saturation']) await addStep(page, name)
  await page.locator('body').click({ position: { x: 640, y: 20 } })
  await page.keyboard.press('[')
  expect(await beadNames(page)).toEqual(['Exposure', 'Saturation', 'Levels'])
  await page.keyboard.press('o')
  await expect(page.locator('[data-bead][data-off]')).toHaveCount(1)
  await page.keyboard.press('Delete')
  expect(await beadNames(page)).toEqual(['Exposure', 'Levels'])
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z')
  expect(await beadNames(page)).toEqual(['Exposure', 'Levels', 'Saturation'])
  await expect(page.locator('[data-bead][data-off]')).toHaveCount(0)
})

/** Takes hold of the frame of a square crop in its middle. */
async function takeCropFrame(page: Page) {
  await addStep(page, 'Crop')
  await page.getByRole('button', { name: '1 : 1' }).click()
  await settled(page)
  const frame = page.getByTitle('Drag to move the crop')
  const home = await frame.boundingBox()
  if (!home) throw new Error('There is no crop frame')
  await page.mouse.move(home.x + home.width / 2, home.y + home.height / 2)
  await page.mouse.down()
  return { frame, home }
}

test('the crop frame is dragged on the stage', async ({ page }) => {
  const { home: box } = await takeCropFrame(page)
  await page.mouse.move(box.x + box.width / 2 + 900, box.y + box.height / 2 + 900, { steps: 6 })
  await page.mouse.up()
  await expect(page.locator('[data-bead]')).toContainText(/1 : 1, (bottom|right|bottom right|at .*)/)
})

test('what is being pulled is as it was when the system takes the pointer away', async ({ page }) => {
  const { frame, home } = await takeCropFrame(page)
  const words = await page.locator('[data-bead]').textContent()
  await page.mouse.move(home.x + home.width / 2 + 300, home.y + home.height / 2 + 300, { steps: 4 })
  await expect.poll(() => frame.boundingBox()).not.toEqual(home)
  await frame.dispatchEvent('pointercancel', { bubbles: true })
  await page.mouse.move(home.x + home.width / 2 + 100, home.y + home.height / 2 + 100)
  await page.mouse.up()
  await expect.poll(() => frame.boundingBox()).toEqual(home)
  await expect(page.locator('[data-bead]')).toHaveText(words ?? '')

  const size = page.getByRole('slider', { name: 'Size', exact: true })
  const before = await size.getAttribute('aria-valuenow')
  await size.hover()
  await page.mouse.down()
  await page.mouse.move(60, 300)
  await expect(size).not.toHaveAttribute('aria-valuenow', before ?? '')
  await size.dispatchEvent('pointercancel', { bubbles: true })
  await expect(size).toHaveAttribute('aria-valuenow', before ?? '')
})

test('a file that is no picture is explained on the stage, and the next one is shown again', async ({ page }) => {
  await page.getByRole('button', { name: 'Open a picture' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('button', { name: 'One folder up' }).click()
  await dialog.getByRole('button', { name: 'One folder up' }).click()
  await dialog.getByRole('button', { name: /odd-files/ }).click()
  await dialog.getByRole('button', { name: 'truncated.jpg' }).click()
  await expect(page.getByText(/is damaged and can't be read to its end/)).toBeVisible()
  await expect(dialog).toBeHidden()
  await page.getByRole('button', { name: 'Open a picture' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'sixteen-bit.tif' }).click()
  await settled(page)
  await expect(page.getByText('900 × 600 px')).toBeVisible()
})

test('a step limited to dark tones leaves bright ones alone, and says so on its bead', async ({ page }) => {
  await addStep(page, 'Exposure')
  await setNumber(page, 'Exposure', -2)
  await settled(page)
  const everywhere = await brightness(page)
  await page.getByLabel('Only on a part of the picture').click()
  await page.locator('.ant-select-item-option').filter({ hasText: 'Tone range' }).click()
  await setNumber(page, 'To', 30)
  await settled(page)
  expect(await brightness(page)).toBeGreaterThan(everywhere + 10)
  await expect(page.locator('[data-bead]')).toContainText('on tones 0–30 %')
  await page.getByRole('switch', { name: 'Tone range inverted' }).click()
  await settled(page)
  expect(await brightness(page)).toBeLessThan(everywhere + 10)
  await page.reload()
  await settled(page)
  await expect(page.locator('[data-bead]')).toContainText('everything but tones')
  await page.locator('[data-bead]').click()
  await page.getByRole('button', { name: 'Remove tone range' }).click()
  await settled(page)
  expect(await brightness(page)).toBeCloseTo(everywhere, 0)
})

test('stamps: a file is kept with the macro, a line takes the picture’s own name, a broken field is told', async ({ page }) => {
  await settled(page)
  const bare = await brightness(page)
  const desk = page.getByRole('complementary', { name: 'Desk' })
  await addStep(page, 'Stamp image')
  await page.locator('input[type=file]').setInputFiles('package.json')
  await expect(desk.getByRole('alert')).toContainText('neither a picture, nor a .cube look, nor a face')
  await page.locator('input[type=file]').setInputFiles('demo/marks/tern-lane-mark.png')
  await expect(page.locator('[data-bead]')).toContainText('tern-lane-mark.png')
  // The mark is fetched before it is drawn.
  await expect.poll(() => brightness(page)).toBeLessThan(bare)
  await addStep(page, 'Stamp text')
  await settled(page)
  await expect(page.getByText('“© TLK27_0422”')).toBeVisible()
  await page.getByLabel('Text', { exact: true }).fill('{nobody}')
  await expect(desk.getByRole('alert')).toContainText('is not a field')
  await page.getByLabel('Text', { exact: true }).fill('{title:upper}')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-bead]').last()).toContainText('{title:upper}')
})

test('a reference is taken from the picture on the bench, and matches itself', async ({ page }) => {
  await settled(page)
  const before = await brightness(page)
  await addStep(page, 'Match')
  await expect(page.locator('[data-bead]')).toContainText('no reference yet')
  await page.getByRole('button', { name: 'Take from this picture' }).click()
  await expect(page.locator('[data-bead]')).toContainText('to the reference')
  await settled(page)
  expect(Math.abs((await brightness(page)) - before)).toBeLessThan(0.5)
})

test('where a step applies is shown for one that changes the size, above and below the stage’s; the page stays', async ({ page }) => {
  const problems: string[] = []
  page.on('pageerror', (error) => problems.push(error.message))
  await addStep(page, 'Sharpen for size')
  await page.getByRole('combobox', { name: 'Only on a part of the picture' }).click()
  await page.locator('.ant-select-item-option', { hasText: 'Tone range' }).click()
  await page.getByRole('button', { name: 'Show where it applies' }).click()
  for (const px of [1700, 1080, 540, 200]) {
    await setNumber(page, 'Long edge', px)
    await settled(page)
    await expect(page.getByRole('img', { name: 'Where this step applies' })).toBeVisible()
    await expect(page.getByText(new RegExp(`× ${px} px`)).first()).toBeVisible()
  }
  expect(problems).toEqual([])
})

test('a step that can’t be shown is left out and named; the rest of the wire goes on', async ({ page }) => {
  await addStep(page, 'Exposure')
  await setNumber(page, 'Exposure', 1)
  const { cursor, folded, changes } = await (await page.request.get('/api/bench')).json()
  // A look whose file is not kept here, as another machine's macro may have one.
  const step = { ...newStep('look-table', 'gone', { file: `${'c'.repeat(64)}/gone.cube` }), kept: false }
  const edit = { from: folded + changes.length, expectedCursor: cursor, added: [{ type: 'insert', index: 1, step }], cursor: cursor + 1 }
  expect((await page.request.post('/api/bench/changes', { data: edit })).ok()).toBe(true)
  await page.reload()
  await settled(page)
  await page.getByRole('button', { name: /^2\. Look table/ }).click()
  await expect(page.getByRole('alert').filter({ hasText: 'This step can’t be shown' })).toContainText('gone.cube')
  await expect(page.getByRole('button', { name: /^2\. Look table.*can’t be shown/ })).toBeVisible()
  const { data } = await stagePixels(page)
  expect(data.some((value) => value > 200)).toBe(true)
  await page.getByRole('button', { name: 'Remove this step' }).click()
  await expect(page.locator('[data-bead]')).toHaveCount(1)
})

test('beads say how long each step takes, anew after an edit, and how they are set again', async ({ page }) => {
  await addStep(page, 'Exposure')
  await addStep(page, 'Noise reduction')
  const choose = async (label: string): Promise<void> => {
    await page.getByRole('button', { name: 'More for this step' }).click()
    await page.getByText(label).click()
  }
  await choose('Beads say how long each step takes')
  const [first, second] = [page.locator('[data-bead]').first(), page.locator('[data-bead]').last()]
  await expect(page.getByText(/^all \d+\.\d\d s$/)).toBeVisible({ timeout: 30_000 })
  await expect(first).toHaveAccessibleName(/^1\. Exposure, (under 0\.01|\d+\.\d\d) s/)
  await expect(second).toHaveAccessibleName(/^2\. Noise reduction, \d+\.\d\d s/)
  await addStep(page, 'Saturation')
  await expect(second).toHaveAccessibleName(/^3\. Saturation, (under 0\.01|\d+\.\d\d) s/, { timeout: 30_000 })
  await choose('Beads say how steps are set')
  await expect(first).toContainText('EV')
  await expect(page.getByText(/^all /)).toBeHidden()
})
