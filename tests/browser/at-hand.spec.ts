import { join } from 'node:path'
import { expect, test } from '@playwright/test'
import { intakeOf } from '@/jobs/loop'
import { newStep } from '@/macros/step'
import type { ShelfMacro } from '@/services/macros'
import { addStep, layVase, openEmptyBench, setNumber, settled } from './bench'
import { keepMacro, root, saveLoop } from './loops'

/* What used to take a detour: each thing where it is wanted, and told where it can't be had. */

test('several pictures are opened at once', async ({ page }) => {
  await openEmptyBench(page)
  await page.getByRole('button', { name: 'Open a picture' }).click()
  const dialog = page.getByRole('dialog', { name: 'Open a picture' })
  await dialog.getByRole('button', { name: 'One folder up' }).click()
  await dialog.getByRole('button', { name: /tiles/ }).click()
  await dialog.getByTitle('TLK27_0429.jpg').click({ modifiers: ['Control'] })
  await dialog.getByRole('checkbox', { name: 'Pick TLK27_0433.jpg' }).click()
  await dialog.getByRole('button', { name: 'Take 2 pictures' }).click()
  for (const name of ['TLK27_0429.jpg', 'TLK27_0433.jpg'])
    await expect(page.getByRole('button', { name: new RegExp(`^Lay ${name}`) })).toBeVisible()
  await expect(page.getByRole('button', { name: /^Lay TLK27_0429.jpg/ })).toHaveAttribute('aria-pressed', 'true')
})

test('a condition is turned round, starts with the picture in hand, and picks names from the tray', async ({ page }) => {
  await layVase(page)
  await openEmptyBench(page)
  await addStep(page, 'Exposure')
  const conditions = page.getByRole('combobox', { name: 'Only for some pictures' })
  const choose = async (title: string): Promise<void> => {
    await conditions.click()
    await page.getByTitle(title, { exact: true }).last().click()
  }
  await choose('Name')
  await expect(page.locator('[data-bead]')).toContainText('only for names like TLK27_')
  await page.getByRole('button', { name: 'Not', exact: true }).click()
  await expect(page.locator('[data-bead]')).toContainText('only for not names like')
  await expect(page.getByText('not for this picture')).toBeVisible()
  await page.getByRole('button', { name: 'Not', exact: true }).click()
  await expect(page.getByText('not for this picture')).toBeHidden()
})

test('a loop leaves as a file, comes in again, and asks for its folders', async ({ page }) => {
  const macro = await keepMacro(page, 'Travels', [newStep('resize', 'a', { lengthPx: 400 })])
  await saveLoop(page, {
    id: 'travels',
    name: 'Travelling',
    intake: intakeOf(join(root, 'pictures', 'tiles')),
    macros: [{ macroId: macro.id, revision: null }],
  })
  await page.goto('/loops')
  const coming = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Export Travelling', exact: true }).click()
  const download = await coming
  expect(download.suggestedFilename()).toBe('Travelling.loop.zip')
  await page.locator('input[type=file]').setInputFiles(await download.path().then((path) => path))
  await expect(page.getByRole('textbox', { name: 'Name of the loop' })).toHaveValue('Travelling 2')
  await expect(page.getByText('Choose the folder to take pictures from.')).toBeVisible()
  await expect(page.getByText('Choose the folder to deliver to.')).toBeVisible()
  await expect(page.getByText('Resize long edge 400 px')).toBeVisible()
})

test('a run shows its pictures in the list, and becomes a loop of its own', async ({ page }) => {
  const macro = await keepMacro(page, 'Pictured', [newStep('resize', 'a', { lengthPx: 200 })])
  await saveLoop(page, {
    id: 'pictured',
    name: 'Pictured',
    intake: intakeOf(join(root, 'pictures', 'tiles')),
    macros: [{ macroId: macro.id, revision: null }],
  })
  const run = await (await page.request.post('/api/loops/pictured/run', { data: {} })).json()
  await page.goto(`/runs/${run.id}`)
  await expect(page.getByText(/^\d+ delivered, 0 failed, \d+ originals unchanged$/)).toBeVisible({ timeout: 60_000 })
  await page.getByRole('button', { name: 'More of this run' }).click()
  await page.getByText('Make a loop of this run').click()
  await expect(page.getByRole('textbox', { name: 'Name of the loop' })).toHaveValue('Pictured 2')
  await page.goto('/runs')
  await expect(
    page
      .getByRole('listitem')
      .filter({ hasText: `Run ${run.number}` })
      .locator('img'),
  ).toHaveCount(4)
})

test('single keys are turned off, and those with Ctrl stay', async ({ page }) => {
  await page.goto('/settings')
  await page.getByRole('switch', { name: 'Single keys are shortcuts' }).click()
  await openEmptyBench(page)
  await page.locator('body').click({ position: { x: 640, y: 20 } })
  await page.keyboard.press('a')
  await page.waitForTimeout(300)
  await expect(page.getByLabel('Find an operation')).toBeHidden()
  await page.keyboard.press('Control+k')
  await expect(page.getByRole('dialog', { name: 'Find and do' })).toBeVisible()
})

test('operations show what they do to the picture in hand', async ({ page }) => {
  await layVase(page)
  await openEmptyBench(page)
  await page.getByRole('button', { name: 'Add a step' }).click()
  const shows = (name: string) => page.getByRole('button', { name: new RegExp(`^${name}`) }).locator('canvas[data-sample]')
  await expect(shows('Exposure')).toBeVisible()
  await expect(shows('Turn')).toBeVisible()
  const size = await shows('Turn').evaluate((canvas) => [(canvas as HTMLCanvasElement).width, (canvas as HTMLCanvasElement).height])
  const plain = await shows('Exposure').evaluate((canvas) => [(canvas as HTMLCanvasElement).width, (canvas as HTMLCanvasElement).height])
  expect(size).toEqual(plain.toReversed())
})

test('a folder that is refused stays typed with why, and one is found by browsing', async ({ page }) => {
  await page.goto('/settings')
  const field = page.getByRole('textbox', { name: 'Path of a folder' })
  await field.fill('/no/such/folder')
  await field.press('Enter')
  await expect(page.getByRole('alert').filter({ hasText: 'does not exist' })).toBeVisible()
  await expect(field).toHaveValue('/no/such/folder')
  await page.getByRole('button', { name: 'Choose a folder to add' }).click()
  const dialog = page.getByRole('dialog', { name: 'Add a folder with pictures' })
  await dialog
    .getByRole('button', { name: '/ 0 pictures' })
    .or(dialog.getByRole('button', { name: /^folder \/ / }))
    .first()
    .click()
  await dialog.getByRole('button', { name: 'Take tmp', exact: true }).click()
  await expect(page.getByRole('button', { name: 'No longer use /tmp', exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'No longer use /tmp', exact: true }).click()
  await expect(page.getByRole('button', { name: 'No longer use /tmp', exact: true })).toBeHidden()
})

test('a limit goes from one step to another', async ({ page }) => {
  await openEmptyBench(page)
  await addStep(page, 'Exposure')
  await page.getByRole('combobox', { name: 'Only on a part of the picture' }).click()
  await page.getByTitle('Only tones between two lightnesses.').click()
  await setNumber(page, 'To', 55)
  await addStep(page, 'Saturation')
  await page.getByRole('button', { name: 'Copy a limit, or take another step’s' }).click()
  await page.getByRole('menuitem', { name: 'As step 1, Exposure: tones 0–55 %' }).click()
  await expect(page.locator('[data-bead]').last()).toContainText('on tones 0–55 %')
})

test('a mark is drawn by hand and stamped; a colour comes from the picture', async ({ page }) => {
  await layVase(page)
  await openEmptyBench(page)
  await addStep(page, 'Stamp image')
  await page.getByRole('button', { name: 'Draw a mark by hand' }).click()
  // Once the dialog has come to rest.
  await page.getByLabel('Sheet to draw on').hover()
  const sheet = await page.getByLabel('Sheet to draw on').boundingBox()
  if (!sheet) throw new Error('There is no sheet')
  await page.mouse.move(sheet.x + 100, sheet.y + 100)
  await page.mouse.down()
  await page.mouse.move(sheet.x + 300, sheet.y + 200, { steps: 8 })
  await page.mouse.move(sheet.x + 420, sheet.y + 90, { steps: 8 })
  // The line runs out beyond the dialog: the drawing stays.
  await page.mouse.move(sheet.x + 300, 790, { steps: 8 })
  await page.mouse.up()
  await page.getByRole('button', { name: 'Take it' }).click()
  await expect(page.locator('[data-bead]')).toContainText('drawn mark.png')
  await settled(page)

  await addStep(page, 'Pad and border')
  await page.getByRole('button', { name: /from the picture$/ }).click()
  const stage = await page.getByTestId('pick').boundingBox()
  if (!stage) throw new Error('There is nothing to pick on')
  await page.mouse.click(stage.x + stage.width * 0.5, stage.y + stage.height * 0.55)
  await expect(page.locator('.ant-color-picker-trigger')).not.toContainText('FFFFFF')
  // Once it is taken, the tool is put down.
  await expect(page.getByTestId('pick')).toBeHidden()
})

test('a counter is set by its start and digits, and a brace opens the list of fields', async ({ page }) => {
  await saveLoop(page, { id: 'counted', name: 'Counted', intake: intakeOf(join(root, 'pictures', 'tiles')) })
  await page.goto('/loops/counted')
  const names = page.getByRole('combobox', { name: 'Names' })
  await names.fill('')
  await names.pressSequentially('a-{n')
  await expect(page.getByRole('option', { name: /\{n:001\}/ })).toBeAttached()
  await page.keyboard.press('Enter')
  await expect(names).toHaveValue('a-{n:001}')
  const digits = page.getByRole('spinbutton', { name: 'Digits' })
  await digits.fill('4')
  await digits.press('Enter')
  const start = page.getByRole('spinbutton', { name: 'Numbers start at' })
  await start.fill('250')
  await start.press('Enter')
  await expect(names).toHaveValue('a-{n:0250}')
  await expect(page.getByText('a-0250.jpg').first()).toBeVisible()
  // Chips tell what they are of the first picture.
  await expect(page.getByRole('button', { name: /^Put in \{name\}/ })).toContainText('TLK27_0428')
})

test('no macro is made twice under one name by the shelf either', async ({ page }) => {
  const first = await keepMacro(page, 'Only one', [newStep('exposure', 'e')])
  const answer = await page.request.post(`/api/macros/${first.id}/duplicate`)
  const copy: ShelfMacro = await answer.json()
  const renamed = await page.request.post(`/api/macros/${copy.id}/about`, { data: { name: first.name.toUpperCase(), notes: '', tags: [] } })
  expect([renamed.status(), (await renamed.json()).code]).toEqual([409, 'nameTaken'])
})
