import { execFileSync } from 'node:child_process'
import { cpSync, mkdirSync, readdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { expect, type Page, test } from '@playwright/test'
import sharp from 'sharp'
import { defaultDelivery } from '@/jobs/delivery'
import { gatherFor } from '@/jobs/gather'
import { intakeOf } from '@/jobs/loop'
import { openEmptyBench, settled } from './bench'
import { root, saveLoop } from './loops'

/* Work that comes otherwise than as a folder, and leaves otherwise than as single files. */

const pictures = join(root, 'pictures')
const delivered = (name: string): string => join(root, 'delivered', name)
const isDone = (page: Page) => expect(page.getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })

test('twelve pictures of a folder are picked, by mouse and at the keyboard, and just these are delivered', async ({ page }) => {
  rmSync(delivered('twelve'), { recursive: true, force: true })
  await saveLoop(page, {
    id: 'twelve',
    name: 'Twelve of them',
    intake: intakeOf(join(pictures, 'vessels')),
    deliveries: [{ ...defaultDelivery('d', delivered('twelve')), longEdgePx: 200 }],
  })
  await page.goto('/loops/twelve')
  await page.getByRole('radiogroup', { name: 'Which of the pictures' }).getByText('Only these …').click()
  const dialog = page.getByRole('dialog', { name: 'Which pictures' })
  const box = (index: number) => dialog.getByRole('checkbox').nth(index)
  await box(0).click()
  await box(4).click({ modifiers: ['Shift'] })
  await expect(dialog.getByText('5 of 19 pictures')).toBeVisible()
  // What was drawn anew takes the keys from nobody.
  await page.evaluate(() => new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn))))
  await expect(box(4)).toBeFocused()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Space')
  await page.keyboard.press('Shift+ArrowRight')
  await expect(dialog.getByText('7 of 19 pictures')).toBeVisible()
  await dialog.getByRole('button', { name: 'The others' }).click()
  await dialog.getByRole('button', { name: 'Take 12 pictures' }).click()
  await expect(page.getByText('12 pictures picked')).toBeVisible()
  await page.getByRole('button', { name: 'Run loop', exact: true }).click()
  await isDone(page)
  expect(readdirSync(delivered('twelve'))).toHaveLength(12)

  // Those of a run go into a loop of their own, and into one that is there, once.
  await page.getByRole('button', { name: 'Take these into a loop' }).click()
  await page.getByRole('textbox', { name: 'Its name' }).fill('From a run')
  await page.getByRole('button', { name: 'Make the loop' }).click()
  await expect(page).toHaveURL(/\/loops\//)
  await expect(page.getByText('12 pictures picked')).toBeVisible()
})

test('a folder dropped on a loop comes in, is run over, and what is no picture stays', async ({ page }) => {
  const dropped = resolve('.build/browser-data/to-drop')
  rmSync(dropped, { recursive: true, force: true })
  rmSync(delivered('dropped'), { recursive: true, force: true })
  mkdirSync(join(dropped, 'tall'), { recursive: true })
  cpSync('demo/pictures/tiles/TLK27_0428.jpg', join(dropped, 'one.jpg'))
  cpSync('demo/pictures/tiles/TLK27_0429.jpg', join(dropped, 'tall', 'two.jpg'))
  writeFileSync(join(dropped, 'notes.txt'), 'no picture')
  writeFileSync(join(dropped, 'false.jpg'), 'no picture either')
  symlinkSync('/etc/hostname', join(dropped, 'link.jpg'))
  await saveLoop(page, {
    id: 'dropped',
    name: 'Takes drops',
    intake: intakeOf(join(pictures, 'tiles')),
    deliveries: [{ ...defaultDelivery('d', delivered('dropped')), longEdgePx: 200 }],
  })
  await page.goto('/loops')
  const card = page.getByRole('listitem').filter({ hasText: 'Takes drops' })
  await card.scrollIntoViewIfNeeded()
  const place = await card.boundingBox()
  if (!place) throw new Error('There is no card')
  const client = await page.context().newCDPSession(page)
  const data = { items: [], files: [dropped], dragOperationsMask: 1 }
  for (const type of ['dragEnter', 'dragOver', 'drop'] as const)
    await client.send('Input.dispatchDragEvent', { type, x: place.x + 200, y: place.y + place.height / 2, data })
  await expect(page.getByRole('dialog', { name: '1 file was not taken' })).toBeVisible()
  await expect(page.getByText(/false\.jpg is not a picture/)).toBeVisible()
  await isDone(page)
  expect(readdirSync(delivered('dropped')).sort()).toEqual(['one.jpg', 'two.jpg'])
})

test('a drop that is called off keeps nothing; one on a loop that asks is asked about, and then runs', async ({ page }) => {
  const dropped = resolve('.build/browser-data/to-ask')
  rmSync(dropped, { recursive: true, force: true })
  rmSync(delivered('asked'), { recursive: true, force: true })
  mkdirSync(dropped, { recursive: true })
  for (const name of ['one.jpg', 'two.jpg']) cpSync('demo/pictures/tiles/TLK27_0428.jpg', join(dropped, name))
  await saveLoop(page, {
    id: 'asked',
    name: 'Asks first',
    intake: intakeOf(join(pictures, 'tiles')),
    deliveries: [{ ...defaultDelivery('d', delivered('asked')), longEdgePx: 200, namePattern: '{name}-{ask:For whom?}' }],
  })
  await page.goto('/loops/asked')
  await expect(page.getByText('5 files to deliver')).toBeVisible()
  const client = await page.context().newCDPSession(page)
  const drop = async (): Promise<void> => {
    const data = { items: [], files: [dropped], dragOperationsMask: 1 }
    for (const type of ['dragEnter', 'dragOver', 'drop'] as const)
      await client.send('Input.dispatchDragEvent', { type, x: 700, y: 700, data })
  }
  const inbox = async (): Promise<number> => (await (await page.request.get('/api/settings')).json()).inbox.pictures
  const before = await inbox()
  // Files that never arrive.
  await page.route('**/inbox/*?name=*', () => undefined)
  await drop()
  await page.getByRole('button', { name: 'Cancel' }).click()
  await expect(page.getByText('Nothing of the drop was kept.')).toBeVisible()
  expect(await inbox()).toBe(before)

  await page.unroute('**/inbox/*?name=*')
  await drop()
  const dialog = page.getByRole('dialog', { name: 'Before it runs' })
  await dialog.getByRole('textbox', { name: 'For whom?' }).fill('you')
  await page.keyboard.press('Enter')
  await isDone(page)
  expect(readdirSync(delivered('asked')).sort()).toEqual(['one-you.jpg', 'two-you.jpg'])

  // Those of the run into a loop that is there, this once.
  await page.getByRole('button', { name: 'Take these into a loop' }).click()
  await page.getByRole('combobox', { name: 'Which loop' }).click()
  await page.locator('.ant-select-item-option', { hasText: 'Takes drops' }).click()
  await page.getByRole('button', { name: 'Run over 2 pictures' }).click()
  await expect(page.getByRole('heading', { name: /Takes drops/ })).toBeVisible()
  await isDone(page)
  await expect(page.getByText('2 delivered, 0 failed, 2 originals unchanged')).toBeVisible()
})

// Beside the pictures: other tests take all that lies there.
const beside = join(pictures, 'vessels-web-set')
test.afterEach(() => rmSync(beside, { recursive: true, force: true }))

test('the picture in hand is delivered in two clicks, and at the keyboard; its size is told', async ({ page }) => {
  rmSync(beside, { recursive: true, force: true })
  await openEmptyBench(page)
  await page.getByRole('button', { name: 'Deliver this picture' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Deliver', exact: true }).click()
  await expect(page.getByText(/TLK27_0422\.jpg: 1365 × 2048 px, /)).toBeVisible()
  await page.keyboard.press('ControlOrMeta+Enter')
  await expect(page.getByRole('dialog').getByRole('button', { name: 'Deliver', exact: true })).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(page.getByText(/TLK27_0422-2\.jpg: 1365 × 2048 px, /)).toBeVisible()
  expect(readdirSync(beside).sort()).toEqual(['TLK27_0422-2.jpg', 'TLK27_0422.jpg'])
  expect((await sharp(join(beside, 'TLK27_0422.jpg')).metadata()).height).toBe(2048)
})

test('from the proof too, with what the picture has of its own', async ({ page }) => {
  const folder = delivered('one-of-proof')
  rmSync(folder, { recursive: true, force: true })
  await page.goto('/loops/demo-shop/proof')
  await expect(page.getByRole('heading', { name: /^TLK27_0415/ })).toBeVisible()
  await page.getByRole('button', { name: 'Deliver this picture' }).click()
  const dialog = page.getByRole('dialog', { name: 'Deliver TLK27_0415.jpg' })
  await dialog.getByRole('textbox', { name: 'Where to' }).fill(folder)
  await dialog.getByRole('button', { name: 'Deliver', exact: true }).click()
  // The shop's macro makes it square.
  await expect(page.getByText(/TLK27_0415\.jpg: 1350 × 1350 px, /)).toBeVisible()
  expect(readdirSync(folder)).toEqual(['TLK27_0415.jpg'])
  await page.getByRole('link', { name: /^Run \d+$/ }).click()
  await expect(page.getByRole('heading', { name: /One picture$/ })).toBeVisible()
  await expect(page.getByText('1 delivered, 0 failed, 1 original unchanged')).toBeVisible()
})

test('macros are tried on the picture in hand; one click lays one, whole or in part', async ({ page }) => {
  await openEmptyBench(page)
  const beads = page.locator('[data-bead]')
  await page.getByRole('button', { name: 'Try macros', exact: true }).click()
  const shelf = page.getByRole('dialog', { name: 'Try macros on this picture' })
  await shelf.getByRole('textbox', { name: 'Find a macro' }).fill('even light base')
  await expect(shelf.getByRole('button', { name: /^Lay .* on the wire$/ })).toHaveCount(1)
  await expect(shelf.locator('canvas')).toHaveCount(1)
  await shelf.getByRole('button', { name: 'Steps of Even light' }).click()
  await page.getByRole('tooltip').getByRole('checkbox').first().uncheck()
  await page.keyboard.press('Escape')
  await shelf.getByRole('button', { name: 'Lay Even light on the wire' }).click()
  await expect(shelf).toBeHidden()
  await expect(beads).toHaveCount(2)
  await settled(page)
})

test('a contact sheet and a set in one PDF, from setting them up to the files', async ({ page }) => {
  rmSync(delivered('sheets'), { recursive: true, force: true })
  await saveLoop(page, {
    id: 'sheets',
    name: 'Sheets',
    intake: intakeOf(join(pictures, 'tiles')),
    deliveries: [{ ...defaultDelivery('d', delivered('sheets')), name: 'Pages', longEdgePx: 400 }],
  })
  await page.goto('/loops/sheets')
  await page.getByRole('radiogroup', { name: 'Files or pages' }).getByText('Many on a page').click()
  const drawn = page.getByRole('img', { name: 'Page 1' })
  await expect(drawn.locator('image')).toHaveCount(5)
  await page.getByRole('spinbutton', { name: 'Columns' }).fill('2')
  await page.getByRole('spinbutton', { name: 'Rows' }).fill('2')
  await expect(page.getByText('Page 1 of 2', { exact: true })).toBeVisible()
  await expect(drawn.locator('image')).toHaveCount(4)
  await page.getByRole('button', { name: 'Next page' }).click()
  await expect(page.getByRole('img', { name: 'Page 2' }).locator('image')).toHaveCount(1)
  await expect(page.getByText('5 pictures on pages')).toBeVisible()
  await page.getByRole('button', { name: 'Run loop', exact: true }).click()
  await isDone(page)
  await expect(page.getByRole('link', { name: 'Sheets.pdf' })).toBeVisible()
  const read = (tool: string, ...words: string[]): string => execFileSync(tool, words, { encoding: 'utf8' })
  const sheet = join(delivered('sheets'), 'Sheets.pdf')
  expect(read('pdfinfo', sheet)).toMatch(/Pages:\s+2[\s\S]*\(A4\)/)
  expect(read('pdftotext', sheet, '-')).toContain('TLK27_0428')

  // Afterwards, a page each, of what the run delivered.
  await page.getByRole('button', { name: 'Gather on pages' }).click()
  const dialog = page.getByRole('dialog', { name: 'Gather 5 pictures on pages' })
  await dialog.getByRole('radiogroup', { name: 'How many on a page' }).first().getByText('A page each').click()
  await dialog.getByRole('button', { name: 'Make the pages' }).click()
  await expect(page.getByText('Sheets-2.pdf: 5 pages')).toBeVisible()
  expect(read('pdfinfo', join(delivered('sheets'), 'Sheets-2.pdf'))).toMatch(/Pages:\s+5/)
  await expect(page.getByRole('link', { name: 'Sheets-2.pdf' })).toBeVisible()
  const answer = await page.request.get(`/api/runs/${page.url().split('/').at(-1)}/pages/0`)
  expect([answer.headers()['content-type'], (await answer.body()).subarray(0, 5).toString()]).toEqual(['application/pdf', '%PDF-'])
  expect(gatherFor('sheet').paper).toBe('a4')
})
