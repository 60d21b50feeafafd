import { writeFileSync } from 'node:fs'
import { expect, type Page, test } from '@playwright/test'
import { replay } from '@/macros/history'
import type { BenchRecord } from '@/services/bench'
import type { ShelfMacro } from '@/services/macros'
import { addStep, beadNames, openEmptyBench, setNumber, settled, stagePixels } from './bench'
import { soak } from './soak'

/* The bench as somebody uses it for an hour: many kinds of edit, with hands on the picture, back and forth, through reloads. */

const pixelsOf = async (page: Page) => (await stagePixels(page)).data
const free = (page: Page) => page.locator('body').click({ position: { x: 640, y: 20 } })

async function choose(page: Page, list: string, option: string): Promise<void> {
  await page.getByRole('combobox', { name: list }).click()
  await page.locator('.ant-select-dropdown:visible .ant-select-item-option', { hasText: option }).first().click()
}

async function pull(page: Page, testId: string, from: readonly [number, number], to: readonly [number, number]): Promise<void> {
  const box = await page.getByTestId(testId).boundingBox()
  if (!box) throw new Error(`${testId} is not there`)
  const at = ([x, y]: readonly [number, number]) => [box.x + box.width * x, box.y + box.height * y] as const
  await page.mouse.move(...at(from))
  await page.mouse.down()
  await page.mouse.move(...at(to), { steps: 6 })
  await page.mouse.up()
  await settled(page)
}

test('ten kinds of edit: a reload in the middle, undo to the start, redo to the end', async ({ page }) => {
  await openEmptyBench(page)
  await page.getByRole('button', { name: 'Record' }).click()
  await addStep(page, 'Exposure')
  await setNumber(page, 'Exposure', 0.5)

  await test.step('a limit drawn by brush brightens there and nowhere else', async () => {
    await settled(page)
    const all = await pixelsOf(page)
    await choose(page, 'Only on a part of the picture', 'Brushed')
    await settled(page)
    await pull(page, 'brush', [0.4, 0.5], [0.6, 0.5])
    await page.keyboard.press('Escape')
    await settled(page)
    const brushed = await stagePixels(page)
    const at = (data: Buffer, x: number, y: number) =>
      data[(Math.floor(y * brushed.height) * brushed.width + Math.floor(x * brushed.width)) * 4]
    expect(at(brushed.data, 0.5, 0.5)).toBe(at(all, 0.5, 0.5))
    expect(at(brushed.data, 0.1, 0.1)).toBeLessThan((at(all, 0.1, 0.1) ?? 0) - 10)
    await expect(page.locator('[data-bead]').first()).toContainText('brushed areas')
  })

  await addStep(page, 'White balance')
  await page.getByRole('button', { name: 'Pick a grey' }).click()
  await pull(page, 'pick', [0.1, 0.1], [0.1, 0.1])
  await expect(page.locator('[data-bead]').nth(1)).toContainText(/grey/i)
  await addStep(page, 'Tone bands')
  await setNumber(page, 'Shadows', 0.4)
  await addStep(page, 'Vibrance')
  await setNumber(page, 'Strength', 60)
  await addStep(page, 'Straighten')
  await page.getByRole('button', { name: 'Draw a line' }).click()
  await pull(page, 'horizon', [0.2, 0.5], [0.8, 0.52])
  await expect(page.locator('[data-bead]').nth(4)).toContainText('°')

  await test.step('a reload in the middle', async () => {
    const before = await beadNames(page)
    await page.reload()
    await settled(page)
    expect(await beadNames(page)).toEqual(before)
    await expect(page.getByRole('status', { name: 'Recording' })).toContainText('5 steps')
  })

  await addStep(page, 'Crop')
  await addStep(page, 'Resize')
  await setNumber(page, 'Length', 900)
  await addStep(page, 'Unsharp mask')
  await choose(page, 'Only for some pictures', 'ISO')
  await addStep(page, 'Stamp text')
  await settled(page)
  await pull(page, 'stamp-box', [0.5, 0.5], [0.5, -6])
  await addStep(page, 'Monochrome')
  await page.getByRole('textbox', { name: 'Note' }).fill('for the diary')
  await free(page)
  await choose(page, 'Ask for a setting before a run', 'Tint')
  expect(await beadNames(page)).toHaveLength(10)

  await test.step('reorder by keyboard', async () => {
    await free(page)
    await page.keyboard.press('[')
    await expect.poll(async () => (await beadNames(page)).slice(-2)).toEqual(['Monochrome', 'Stamp text'])
  })

  await test.step('undo to the start, redo to the end: wire, database and picture agree', async () => {
    await settled(page)
    const [names, pixels] = [await beadNames(page), await pixelsOf(page)]
    const stored = async () => (await (await page.request.get('/api/bench')).json()) as BenchRecord
    await expect.poll(async () => (await stored()).cursor).toBeGreaterThan(20)
    const { cursor, changes } = await stored()
    expect(cursor).toBe(changes.length)
    // Before the recording there is the history of whatever was done on this bench earlier.
    let undone = 0
    for (; (await beadNames(page)).length > 0; undone++) await page.keyboard.press('Control+z')
    await settled(page)
    expect(await beadNames(page)).toEqual([])
    expect(undone).toBeGreaterThan(20)
    for (let i = 0; i < undone; i++) await page.keyboard.press('Control+Shift+z')
    await expect.poll(() => beadNames(page)).toEqual(names)
    await settled(page)
    expect((await pixelsOf(page)).equals(pixels)).toBe(true)
    await expect.poll(async () => (await stored()).cursor).toBe(cursor)
    await page.reload()
    await settled(page)
    expect(await beadNames(page)).toEqual(names)
    expect((await pixelsOf(page)).equals(pixels)).toBe(true)
  })
})

/** The same gestures every time: a linear congruential generator (constants from memory). */
function seeded(seed: number): (max: number) => number {
  let state = seed
  return (max) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 4294967296) * max)
  }
}

test('any gestures in any order: wire, database and picture agree, and a reload changes nothing', soak, async ({ page }) => {
  await openEmptyBench(page)
  const random = seeded(27)
  const operations = ['Exposure', 'Levels', 'Crop', 'Monochrome', 'Resize', 'Turn & mirror', 'Full range', 'Unsharp mask', 'Pad & border']
  const gestures: readonly (() => Promise<void>)[] = [
    () => addStep(page, operations[random(operations.length)] ?? 'Exposure'),
    () => page.keyboard.press('Control+z'),
    () => page.keyboard.press('Control+Shift+z'),
    () => page.keyboard.press('['),
    () => page.keyboard.press('o'),
    () => page.keyboard.press('y'),
    () => page.keyboard.press(','),
    () => page.keyboard.press('.'),
    () => page.keyboard.press('Delete'),
    () => page.keyboard.press('r'),
    () => page.keyboard.press('t'),
    () => page.keyboard.press('Escape'),
  ]
  for (let round = 0; round < 4; round++) {
    for (let i = 0; i < 14; i++) {
      await free(page)
      await gestures[i % 4 === 0 ? 0 : random(gestures.length)]?.()
    }
    await page.keyboard.press('Escape')
    await settled(page)
    const stored = (await (await page.request.get('/api/bench')).json()) as BenchRecord
    const { steps } = replay(stored.changes, stored.cursor - stored.folded, stored.base ?? undefined).document
    const beads = page.locator('[data-bead]')
    expect(await beads.evaluateAll((all) => all.map((bead) => bead.getAttribute('data-bead')))).toEqual(steps.map((step) => step.id))
    expect(await page.locator('[data-bead][data-off]').count()).toBe(steps.filter((step) => !step.enabled).length)
    const pixels = await pixelsOf(page)
    const selected = await page
      .locator('[data-bead][aria-pressed=true]')
      .getAttribute('data-bead')
      .catch(() => null)
    await page.reload()
    await settled(page)
    if (selected) await page.locator(`[data-bead="${selected}"]`).click()
    await settled(page)
    expect((await pixelsOf(page)).equals(pixels)).toBe(true)
  }
})

test('a test strip offers five values; a click takes one', async ({ page }) => {
  await openEmptyBench(page)
  await addStep(page, 'Exposure')
  await settled(page)
  await free(page)
  await page.keyboard.press('t')
  const strip = page.getByRole('dialog', { name: 'Test strip' })
  await expect(strip.getByRole('button', { name: /^Take / })).toHaveCount(5)
  await expect(strip.locator('canvas[data-drawn]')).toHaveCount(5)
  await page.keyboard.press('ArrowLeft')
  await expect(strip.getByRole('button', { name: /^Take / }).last()).toContainText('0.94 EV')
  await strip
    .getByRole('button', { name: /^Take / })
    .last()
    .click()
  await expect(page.locator('[data-bead]')).toContainText('+0.94 EV')
})

test('beads are picked together, copied, pasted and made into one', async ({ page }) => {
  await openEmptyBench(page)
  for (const name of ['Exposure', 'Levels', 'Saturation']) await addStep(page, name)
  const beads = page.locator('[data-bead]')
  await beads.nth(0).click()
  await beads.nth(2).click({ modifiers: ['Control'] })
  await expect(page.locator('[data-picked]')).toHaveCount(1)
  await page.getByRole('button', { name: 'More for this step' }).click()
  await page.getByRole('menuitem', { name: 'Make one step of 2 steps' }).click()
  await expect.poll(() => beadNames(page)).toEqual(['Play a macro', 'Levels'])
  await expect(page.getByText('1. Exposure')).toBeVisible()
  await free(page)
  await page.keyboard.press('y')
  await expect.poll(() => beadNames(page)).toEqual(['Play a macro', 'Play a macro', 'Levels'])
})

test('a spread of a folder is live in the tray, and side by side shows before and after', async ({ page }) => {
  await openEmptyBench(page)
  await page.getByRole('button', { name: 'Pick a spread' }).click()
  await page.getByRole('button', { name: 'Take this folder' }).click()
  const tray = page.getByRole('complementary', { name: 'Samples' })
  await expect(tray.locator('canvas[data-sample]').nth(3)).toBeVisible()
  await settled(page)
  const tile = tray.locator('canvas[data-sample]').nth(1)
  const brightness = () =>
    tile.evaluate((element) => {
      const canvas = element as HTMLCanvasElement
      const { data } = (canvas.getContext('2d') as CanvasRenderingContext2D).getImageData(0, 0, canvas.width, canvas.height)
      return data.reduce((sum, value) => sum + value, 0) / data.length
    })
  const before = await brightness()
  await addStep(page, 'Exposure')
  await setNumber(page, 'Exposure', -2)
  await expect.poll(brightness).toBeLessThan(before - 20)
  await choose(page, 'Before and after', 'Side by side')
  await expect(page.getByTestId('before')).toBeVisible()
  await expect(page.getByText('Before', { exact: true })).toBeVisible()
})

test('the shelf finds, compares revisions, takes one back, and says what is wrong with a broken bundle', async ({ page }, info) => {
  await openEmptyBench(page)
  await addStep(page, 'Exposure')
  await setNumber(page, 'Exposure', 0.4)
  await page.getByRole('button', { name: 'Keep as macro' }).click()
  await page.getByRole('button', { name: 'Keep it too' }).click()
  const form = page.locator('form')
  const asNew = form.getByRole('radio', { name: 'As a new macro' })
  if (await asNew.isVisible()) await asNew.click()
  await form.getByRole('textbox').fill('Lift for the shelf')
  await form.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(page.getByText('Kept as')).toBeVisible()
  await setNumber(page, 'Exposure', 0.9)
  await page.getByRole('button', { name: 'Keep as macro' }).click()
  await page.locator('form').getByRole('button', { name: 'Keep', exact: true }).click()
  await page.goto('/macros')
  await page.getByRole('textbox', { name: 'Find a macro' }).fill('lift shelf')
  await expect(page.getByRole('listitem').filter({ hasText: 'Lift for the shelf' })).toHaveCount(1)
  await page.getByRole('link', { name: 'Lift for the shelf' }).click()
  await expect(page.getByText('+0.40 EV → +0.90 EV')).toBeVisible()
  await page.getByRole('button', { name: /^r1 / }).click()
  await page.getByRole('button', { name: 'Take r1 back' }).click()
  await expect(page.getByRole('button', { name: /^r3 / })).toBeVisible()
  await expect(page.getByText('1. Exposure +0.40 EV')).toBeVisible()

  await page.goto('/macros')
  const broken = info.outputPath('broken.macro.zip')
  writeFileSync(broken, 'PK this is no archive')
  await page.locator('input[type=file]').setInputFiles(broken)
  await expect(page.getByText(/broken\.macro\.zip can't be taken in/)).toBeVisible()
})

test('find and do goes anywhere and adds anything', async ({ page }) => {
  await openEmptyBench(page)
  await page.keyboard.press('Control+k')
  await page.getByRole('textbox', { name: 'What to find' }).fill('add curve')
  await page.keyboard.press('Enter')
  await expect.poll(() => beadNames(page)).toEqual(['Curve'])
  await expect(page.getByRole('dialog')).toBeHidden()
  await page.keyboard.press('Control+k')
  await page.getByRole('textbox', { name: 'What to find' }).fill('loops')
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/\/loops/)
})

test('a recording that ends lies on the shelf as a draft, and is named once; a name that is taken is told', async ({ page }) => {
  await openEmptyBench(page)
  await page.request.post('/api/macros', { data: { name: 'Taken by tiles', notes: '', tags: [], steps: [] } })
  await addStep(page, 'Levels')
  await expect(page.getByText('Made while not recording: a macro leaves it out.')).toBeVisible()
  await page.keyboard.press('Control+z')
  await page.getByRole('button', { name: 'Record', exact: true }).click()
  await addStep(page, 'Exposure')
  await setNumber(page, 'Exposure', 0.5)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()

  const shelf = async (): Promise<ShelfMacro[]> => (await page.request.get('/api/macros')).json()
  const name = page.getByRole('textbox', { name: 'Name of the macro' })
  await expect(name).toBeFocused()
  const [draft] = await shelf()
  expect(draft).toMatchObject({ tags: ['draft'], revision: 1 })
  expect(draft?.name).toMatch(/^Exposure/)
  expect(draft?.steps.map(({ operation }) => operation)).toEqual(['exposure'])

  await page.keyboard.type('taken BY tiles')
  await expect(page.getByText('There is a macro called “taken BY tiles” already.')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Keep', exact: true })).toBeDisabled()
  await name.fill('Named by tiles')
  await name.press('Enter')
  await expect(page.getByText('Kept as Named by tiles r1')).toBeVisible()
  expect((await shelf())[0]).toMatchObject({ id: draft?.id, name: 'Named by tiles', tags: [], revision: 1 })

  // What is recorded next on another wire is not called after it.
  await page.getByRole('button', { name: 'New wire' }).click()
  await page.getByRole('button', { name: 'Record', exact: true }).click()
  await expect(name).toHaveValue(/^My macro/)
})
