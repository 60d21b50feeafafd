import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { expect, test } from '@playwright/test'
import Database from 'better-sqlite3'
import sharp from 'sharp'
import { intakeOf } from '@/jobs/loop'
import { newStep } from '@/macros/step'
import { keepMacro, root, saveLoop } from './loops'
import { soak } from './soak'

/* Loops as somebody sets them up and walks away from them. */

/** The runner that works for these tests, as it says itself. */
function runnerProcess(): number {
  const database = new Database(join(root, '..', 'copper-loop.sqlite'), { readonly: true })
  try {
    return Number(database.prepare('select process_id from runners order by beat_at desc limit 1').pluck().get())
  } finally {
    database.close()
  }
}

test('a loop with three deliveries and a question, from creation to report', async ({ page }) => {
  const asking = { ...newStep('exposure', 'a', { exposureEv: 0 }), open: [{ setting: 'exposureEv', question: 'How bright?' }] }
  const macro = await keepMacro(page, 'Asking', [asking, newStep('resize', 'b', { lengthPx: 600 })])
  await page.goto('/loops')
  await page.getByRole('button', { name: 'plus New loop' }).click()
  await expect(page).toHaveURL(/\/loops\/.+/)
  await page.getByLabel('Name of the loop').fill('Three ways')
  await page.getByLabel('Intake folder', { exact: true }).fill(join(root, 'pictures'))
  await page.getByRole('combobox', { name: 'Only some pictures' }).click()
  await page.locator('.ant-select-item-option', { hasText: 'Orientation' }).click()
  for (const name of ['kiln*', 'raw']) {
    await page.getByRole('combobox', { name: 'Subfolders to pass over' }).fill(name)
    await page.keyboard.press('Enter')
  }
  await page.getByRole('combobox', { name: 'Add a macro' }).click()
  await page.locator('.ant-select-item-option', { hasText: macro.name }).click()
  await page.keyboard.press('Escape')
  await page.getByLabel('Delivery folder', { exact: true }).fill(join(root, 'delivered', 'three', 'shop'))
  // With the comma: while the look goes on, it says "24 pictures in 2 folders so far, …", before any condition is asked.
  const count = await page.getByText(/^\d+ pictures in 2 folders, /).textContent()
  const pictures = Number(count?.match(/^\d+/)?.[0])
  expect(pictures).toBeGreaterThan(2)
  await expect(page.getByText(`${pictures} files to deliver`)).toBeVisible()
  // One at a time: what an answer brings makes the page longer, and the menu goes with its button.
  for (const [index, need] of ['Client previews', 'Archive'].entries()) {
    await page.getByRole('button', { name: 'Add a delivery' }).click()
    await page.getByRole('menuitem', { name: need }).click()
    await expect(page.getByText(`${pictures * (index + 2)} files to deliver`)).toBeVisible()
  }
  await page.getByRole('button', { name: 'Run loop' }).click()
  const dialog = page.getByRole('dialog', { name: 'Before it runs' })
  await dialog.getByRole('spinbutton', { name: 'How bright?' }).fill('-3')
  await dialog.getByRole('button', { name: 'Run loop' }).click()
  await expect(page.getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })
  await expect(page.getByText(new RegExp(`${pictures} originals unchanged`))).toBeVisible()
  const folders = ['shop', 'client-previews', 'archive'].map((name) => join(root, 'delivered', 'three', name))
  for (const folder of folders) expect(readdirSync(folder)).toHaveLength(pictures)
  const archived = join(folders[2] ?? '', readdirSync(folders[2] ?? '')[0] ?? '')
  expect(await sharp(archived).metadata()).toMatchObject({ format: 'tiff', depth: 'ushort' })
  expect((await sharp(archived).stats()).channels[1]?.mean).toBeLessThan(65535 / 4)

  await page
    .getByRole('button', { name: /, done$/ })
    .first()
    .click()
  await expect(page.getByRole('img', { name: 'After' })).toBeVisible()
  await page.keyboard.press('ArrowRight')
  await expect(page.getByText(`2 of ${pictures}`)).toBeVisible()
  await page.keyboard.press('Escape')
  const report = await (await page.request.get(`${page.url().replace('/runs/', '/api/runs/')}/report`)).json()
  expect(report.pictures).toHaveLength(pictures * 3)

  await page.getByRole('link', { name: 'Three ways' }).click()
  await page.getByRole('button', { name: 'Other ways to run' }).click()
  await page.getByRole('menuitem', { name: 'Only what is new or changed' }).click()
  await page.getByRole('dialog').getByRole('spinbutton', { name: 'How bright?' }).fill('-3')
  await page.getByRole('dialog').getByRole('button', { name: 'Run loop' }).click()
  await expect(page.getByText(`– ${pictures} skipped`)).toBeVisible()
})

test('a loop made before the list of loops has arrived is there all the same', async ({ page }) => {
  let listWasAsked = false
  await page.route('**/api/loops', async (route) => {
    if (route.request().method() !== 'GET' || listWasAsked) return route.continue()
    listWasAsked = true
    const answerFromBefore = await route.fetch()
    await new Promise((resolve) => setTimeout(resolve, 3_000))
    await route.fulfill({ response: answerFromBefore }).catch(() => undefined)
  })
  await page.goto('/loops')
  await page.getByRole('button', { name: 'plus New loop' }).click()
  await expect(page.getByLabel('Name of the loop')).toHaveValue('New loop')
  expect(listWasAsked).toBe(true)
})

test('a loop is checked anew as often as its page is opened, however soon', async ({ page }) => {
  const intake = join(root, 'soon')
  mkdirSync(intake, { recursive: true })
  cpSync('demo/pictures/vessels/TLK27_0418.jpg', join(intake, 'a.jpg'))
  const macro = await keepMacro(page, 'Small', [newStep('resize', 'a', { lengthPx: 300 })])
  await saveLoop(page, { id: 'soon', name: 'Soon', intake: intakeOf(intake), macros: [{ macroId: macro.id, revision: null }] })
  await page.goto('/loops/soon')
  await expect(page.getByText('1 file to deliver')).toBeVisible()
  cpSync('demo/pictures/vessels/TLK27_0418.jpg', join(intake, 'b.jpg'))
  await page.getByRole('link', { name: 'Runs', exact: true }).click()
  await expect(page).toHaveURL(/\/runs$/)
  await page.goBack()
  await expect(page.getByText('2 files to deliver')).toBeVisible()
})

test('a run is paused, its runner killed, the browser closed: all of it is finished', soak, async ({ page, context }) => {
  const intake = join(root, 'long')
  mkdirSync(intake, { recursive: true })
  for (let i = 0; i < 24; i++) cpSync('demo/pictures/vessels/TLK27_0418.jpg', join(intake, `p${i}.jpg`))
  const macro = await keepMacro(page, 'Slow', [
    newStep('local-contrast', 'a'),
    newStep('unsharp-mask', 'b', { radiusPx: 20 }),
    newStep('resize', 'c', { lengthPx: 300 }),
  ])
  await saveLoop(page, { id: 'long', name: 'Long', intake: intakeOf(intake), macros: [{ macroId: macro.id, revision: null }] })
  await page.goto('/loops/long')
  await page.getByRole('button', { name: 'Run loop' }).click()
  await page.getByRole('button', { name: 'Pause' }).click()
  await expect(page.getByText('Until you let it go on')).toBeVisible()
  const address = page.url()
  // What is in work is finished.
  const working = async () => (await (await page.request.get(address.replace('/runs/', '/api/runs/'))).json()).run.totals.working
  await expect.poll(working).toBe(0)
  const delivered = () => readdirSync(join(root, 'delivered', 'long')).filter((name) => name.endsWith('.jpg')).length
  const held = delivered()
  expect(held).toBeLessThan(24)
  await page.waitForTimeout(1500)
  expect(delivered()).toBe(held)

  await page.getByRole('button', { name: 'Go on' }).click()
  await expect.poll(delivered).toBeGreaterThan(held)
  await page.close()
  process.kill(runnerProcess(), 'SIGKILL')
  const again = await context.newPage()
  await again.goto(address)
  await expect(again.getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })
  await expect(again.getByText(/24 originals unchanged/)).toBeVisible()
  expect(readdirSync(join(root, 'delivered', 'long'))).toHaveLength(24)
})

test('one bad file is told and run again by itself once it is mended', async ({ page }) => {
  const intake = join(root, 'mended')
  mkdirSync(intake, { recursive: true })
  cpSync('demo/pictures/vessels/TLK27_0418.jpg', join(intake, 'good.jpg'))
  writeFileSync(join(intake, 'bad.jpg'), 'not yet')
  const macro = await keepMacro(page, 'Small', [newStep('resize', 'c', { lengthPx: 200 })])
  await saveLoop(page, { id: 'mended', name: 'Mended', intake: intakeOf(intake), macros: [{ macroId: macro.id, revision: null }] })
  await page.goto('/loops/mended')
  await expect(page.getByText('1 can’t be read')).toBeVisible()
  await page.getByRole('button', { name: 'Run loop' }).click()
  await expect(page.getByText('✕ 1 failed')).toBeVisible()
  cpSync('demo/pictures/vessels/TLK27_0419.jpg', join(intake, 'bad.jpg'))
  await page.getByRole('button', { name: 'Run the failed again' }).click()
  await expect(page.getByText('All 1', { exact: true })).toBeVisible()
  await expect(page.getByText('Done', { exact: true })).toBeVisible()
  expect(existsSync(join(root, 'delivered', 'mended', 'bad.jpg'))).toBe(true)
})

test('pictures that come out unlike the others are told and shown by themselves', async ({ page }) => {
  const intake = join(root, 'alike')
  mkdirSync(intake, { recursive: true })
  for (const name of ['TLK27_0416', 'TLK27_0417', 'TLK27_0419', 'TLK27_0422', 'TLK27_0424'])
    cpSync(`demo/pictures/vessels/${name}.jpg`, join(intake, `${name}.jpg`))
  // Taken 1.3 stops too bright.
  cpSync('demo/pictures/vessels/TLK27_0418.jpg', join(intake, 'bright.jpg'))
  const macro = await keepMacro(page, 'Small', [newStep('resize', 'c', { lengthPx: 400 })])
  await saveLoop(page, { id: 'alike', name: 'Alike', intake: intakeOf(intake), macros: [{ macroId: macro.id, revision: null }] })
  await page.goto('/loops/alike')
  await page.getByRole('button', { name: 'Run loop' }).click()
  await expect(page.getByText('Done', { exact: true })).toBeVisible()
  await page.getByText('▲ 1 standing out').click()
  const shown = page.getByRole('button', { name: /\.jpg, done/ })
  await expect(shown).toHaveCount(1)
  await expect(shown).toHaveAccessibleName(/^bright\.jpg, done, \d+ % nearly white/)
  await page.getByText('Report', { exact: true }).click()
  await expect(page.getByText(/^\d+ % nearly white/)).toBeVisible()
  const report = await (await page.request.get(`/api/runs/${page.url().split('/').at(-1)}/report`)).json()
  expect(report.pictures.flatMap(({ noticed }: { noticed: string | null }) => noticed ?? [])).toHaveLength(1)
  await page.getByRole('button', { name: 'Lay on the bench' }).click()
  await expect(page.getByRole('button', { name: /^Lay bright\.jpg.* on the bench$/ })).toHaveAttribute('aria-pressed', 'true')
})

test('folders are named in Settings, and only those can be used', async ({ page }) => {
  await page.goto('/settings')
  const field = page.getByRole('textbox', { name: 'Path of a folder' })
  await field.fill('/no/such/folder')
  await page.getByRole('button', { name: 'Add folder' }).click()
  await expect(page.getByText(/\/no\/such\/folder does not exist/)).toBeVisible()
  const folder = resolve('.build/browser-data/elsewhere')
  mkdirSync(folder, { recursive: true })
  await field.fill(folder)
  await page.getByRole('button', { name: 'Add folder' }).click()
  await expect(page.getByRole('button', { name: `No longer use ${folder}` })).toBeVisible()
  expect((await page.request.get(`/api/folders?path=${encodeURIComponent(folder)}`)).ok()).toBe(true)
  await page.getByRole('button', { name: `No longer use ${folder}` }).click()
  await expect(page.getByText(folder)).toBeHidden()
  expect((await page.request.get(`/api/folders?path=${encodeURIComponent(folder)}`)).status()).toBe(403)
})

test('a name that is typed is stored once and checks nothing anew; another window’s change is told, and shown', async ({
  page,
  context,
}) => {
  await saveLoop(page, { id: 'named', name: 'Before', intake: intakeOf(join(root, 'pictures', 'tiles')) })
  await page.goto('/loops/named')
  await expect(page.getByText(/^\d+ pictures? in 1 folder/)).toBeVisible()
  const asked: string[] = []
  page.on('request', (request) => {
    if (request.method() === 'POST') asked.push(new URL(request.url()).pathname)
  })
  const name = page.getByLabel('Name of the loop')
  await name.click()
  await name.press('Control+A')
  await name.pressSequentially('Tiles for the catalogue', { delay: 60 })
  await name.press('Enter')
  await expect.poll(async () => (await (await page.request.get('/api/loops/named')).json()).name).toBe('Tiles for the catalogue')
  await page.waitForTimeout(600)
  expect(asked).toEqual(['/api/loops'])

  const other = await context.newPage()
  await other.goto('/loops/named')
  await expect(other.getByLabel('Name of the loop')).toHaveValue('Tiles for the catalogue')
  await other.getByLabel('With subfolders').click()
  await expect.poll(async () => (await (await page.request.get('/api/loops/named')).json()).intake.subfolders).toBe(false)
  await name.fill('Mine')
  await name.press('Enter')
  await expect(page.getByText(/was changed in another window/)).toBeVisible()
  await expect(name).toHaveValue('Tiles for the catalogue')
  await expect(page.getByLabel('With subfolders')).not.toBeChecked()
  // From that state on it can be changed again.
  await name.fill('Mine')
  await name.press('Enter')
  await expect.poll(async () => (await (await page.request.get('/api/loops/named')).json()).name).toBe('Mine')
})

test('a name that is still being typed when the page is left is kept', async ({ page }) => {
  await saveLoop(page, { id: 'left', name: 'Before' })
  await page.goto('/loops/left')
  await page.getByLabel('Name of the loop').fill('After')
  await page.reload()
  await expect(page.getByLabel('Name of the loop')).toHaveValue('After')
})

test('damaged pictures are left out or delivered, as the loop says; what is not taken is named', async ({ page }) => {
  const folder = join(root, 'odd-intake')
  mkdirSync(folder, { recursive: true })
  cpSync(join(root, 'pictures', 'vessels', 'TLK27_0418.jpg'), join(folder, 'whole.jpg'))
  const bytes = readFileSync(join(folder, 'whole.jpg'))
  writeFileSync(join(folder, 'damaged.jpg'), bytes.fill(0, Math.floor(bytes.length / 2), Math.floor(bytes.length / 2) + 512))
  writeFileSync(join(folder, 'layers.PSD'), 'x')
  const macro = await keepMacro(page, 'Small', [newStep('resize', 'a', { lengthPx: 200 })])
  await saveLoop(page, { id: 'odd', name: 'Odd', intake: intakeOf(folder), macros: [{ macroId: macro.id, revision: null }] })
  await page.goto('/loops/odd')
  await expect(page.getByText('1 file of kinds that are not read: PSD.')).toBeVisible()
  await page.getByRole('button', { name: 'Run loop' }).click()
  await expect(page.getByText('1 done').first()).toBeVisible({ timeout: 120_000 })
  await expect(page.getByText('✕ 1 failed')).toBeVisible()
  await expect(page.getByText('Not taken: 1 file of kinds that are not read: PSD.')).toBeVisible()
  await page.goto('/loops/odd')
  await page.getByRole('combobox', { name: 'Damaged pictures' }).click()
  await page.locator('.ant-select-item-option', { hasText: 'are marked' }).click()
  await page.getByRole('button', { name: 'Run loop' }).click()
  await expect(page.getByText('▲ 1 standing out')).toBeVisible({ timeout: 120_000 })
})
