import { readdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { expect, type Locator, type Page, test } from '@playwright/test'
import sharp from 'sharp'
import { defaultDelivery } from '@/jobs/delivery'
import { intakeOf } from '@/jobs/loop'
import { newStep } from '@/macros/step'
import { openEmptyBench, settled } from './bench'
import { keepMacro, root, saveLoop } from './loops'

/* The jobs that people come with, from an empty bench to a finished folder: nothing is typed but words to find or to name, and every click counts. */

/** A hand on the mouse, and how often it has pressed. */
function hand() {
  let clicks = 0
  return {
    clicks: () => clicks,
    async click(target: Locator): Promise<void> {
      clicks++
      await target.click()
    },
  }
}
type Hand = ReturnType<typeof hand>

const pictures = join(root, 'pictures')

async function findStep(page: Page, { click }: Hand, word: string): Promise<void> {
  await click(page.getByRole('button', { name: 'Add a step' }))
  await page.keyboard.type(word)
  await page.keyboard.press('Enter')
  await settled(page)
}

/** From the folder of the picture on the bench to the one beside it. */
async function takeFolder(page: Page, { click }: Hand, name: string): Promise<void> {
  await click(page.getByRole('button', { name: 'Choose: Which pictures' }))
  const dialog = page.getByRole('dialog', { name: 'Which pictures' })
  await click(dialog.getByRole('button', { name: 'One folder up' }))
  await click(dialog.getByRole('button', { name: `Take ${name}`, exact: true }))
}

/** Presses Run once it says what it will do, and waits for the end. */
async function runAndWait(page: Page, { click }: Hand): Promise<void> {
  await click(page.getByRole('dialog', { name: 'Run over a folder' }).getByRole('button', { name: /^Run \d+ pictures?$/ }))
  await expect(page.getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })
}

const openRunOver = (page: Page, { click }: Hand): Promise<void> => click(page.getByRole('button', { name: 'Run over a folder' }))

const tiles = readdirSync('demo/pictures/tiles')
const delivered = join(pictures, 'tiles-web-set')
/** The delivered files; each job starts with none. */
const files = (): string[] => readdirSync(delivered)

test.beforeEach(async ({ page }) => {
  rmSync(delivered, { recursive: true, force: true })
  await openEmptyBench(page)
})

test('a folder is resized in six clicks, and the loop can be run again by one', async ({ page }) => {
  const mouse = hand()
  await openRunOver(page, mouse)
  await takeFolder(page, mouse, 'tiles')
  await runAndWait(page, mouse)
  expect(mouse.clicks()).toBeLessThanOrEqual(6)
  expect(files()).toHaveLength(tiles.length)
  const { width = 0, height = 0 } = await sharp(join(delivered, files()[0] ?? '')).metadata()
  expect(Math.max(width, height)).toBeLessThanOrEqual(2048)

  await page.goto('/loops')
  const again = hand()
  await again.click(page.getByRole('listitem').filter({ hasText: 'Resized' }).first().getByRole('button', { name: 'Run loop' }))
  await expect(page.getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })
  expect(again.clicks()).toBe(1)
  expect(files()).toHaveLength(2 * tiles.length)
})

test('a mark is laid on a folder in seven clicks, and two in the system’s own dialog', async ({ page }) => {
  const mouse = hand()
  await findStep(page, mouse, 'watermark')
  const choosing = page.waitForEvent('filechooser')
  await mouse.click(page.getByRole('complementary', { name: 'Desk' }).getByRole('button', { name: /^Choose/ }))
  await (await choosing).setFiles('demo/marks/tern-lane-mark.png')
  await settled(page)
  await openRunOver(page, mouse)
  await takeFolder(page, mouse, 'tiles')
  await runAndWait(page, mouse)
  expect(mouse.clicks()).toBeLessThanOrEqual(7)
  const [first = ''] = readdirSync(delivered)
  // The mark is there: the same picture without it differs where it lies.
  const marked = await sharp(join(delivered, first)).raw().toBuffer({ resolveWithObject: true })
  const plain = await sharp(join(pictures, 'tiles', first))
    .resize(marked.info.width, marked.info.height)
    .raw()
    .toBuffer()
  let apart = 0
  for (let i = 0; i < plain.length; i++) if (Math.abs((plain[i] ?? 0) - (marked.data[i] ?? 0)) > 60) apart++
  expect(apart).toBeGreaterThan(500)
})

test('a macro of the shelf goes over a folder under new names in seven clicks', async ({ page }) => {
  await keepMacro(page, 'Straight and small', [newStep('resize', 'a', { lengthPx: 500 })])
  const mouse = hand()
  await mouse.click(page.getByRole('link', { name: 'Macros' }))
  await mouse.click(page.getByRole('listitem').filter({ hasText: 'Straight and small' }).getByRole('button', { name: 'Run over a folder' }))
  await takeFolder(page, mouse, 'tiles')
  await mouse.click(page.getByRole('combobox', { name: 'Names', exact: true }))
  await page.keyboard.press('ControlOrMeta+A')
  await page.keyboard.type('tile-{n:01}')
  await runAndWait(page, mouse)
  expect(mouse.clicks()).toBeLessThanOrEqual(7)
  expect(files()).toContain('tile-01.jpg')
})

test('a mono set takes six clicks, crop and resize seven; what was on the wire is on the shelf', async ({ page }) => {
  const mono = hand()
  await findStep(page, mono, 'black and white')
  await openRunOver(page, mono)
  await takeFolder(page, mono, 'tiles')
  await runAndWait(page, mono)
  expect(mono.clicks()).toBeLessThanOrEqual(6)
  const { channels } = await sharp(join(delivered, files()[0] ?? '')).stats()
  expect(Math.abs((channels[0]?.mean ?? 0) - (channels[2]?.mean ?? 255))).toBeLessThan(1)

  await page.goto('/bench')
  await settled(page)
  const both = hand()
  await both.click(page.getByRole('button', { name: 'New wire' }))
  await findStep(page, both, '16:9')
  await findStep(page, both, 'height')
  await openRunOver(page, both)
  await takeFolder(page, both, 'tiles')
  await runAndWait(page, both)
  expect(both.clicks()).toBeLessThanOrEqual(8)
  await page.goto('/macros')
  await expect(page.getByRole('link', { name: 'Monochrome', exact: true })).toBeVisible()
  await expect(page.getByRole('link', { name: 'Crop and Resize' })).toBeVisible()
})

test('a new wire is taken back, and beads picked together go together', async ({ page }) => {
  const mouse = hand()
  for (const word of ['exposure', 'curve', 'vibrance']) await findStep(page, mouse, word)
  const beads = page.locator('[data-bead]')
  await page.getByRole('button', { name: 'New wire' }).click()
  await expect(beads).toHaveCount(0)
  await page.getByRole('button', { name: 'Take it back' }).click()
  await expect(beads).toHaveCount(3)
  await beads.nth(0).click()
  await beads.nth(1).click({ modifiers: ['Shift'] })
  await page.getByRole('button', { name: 'Remove this step' }).click()
  await expect(beads).toHaveCount(1)
  await expect(page.getByRole('complementary', { name: 'Desk' }).getByRole('heading', { name: 'Vibrance' })).toBeVisible()
})

test('a job that is not kept leaves no loop behind, and its run is run again all the same', async ({ page }) => {
  const mouse = hand()
  await openRunOver(page, mouse)
  await takeFolder(page, mouse, 'tiles')
  await page.getByLabel('Name of the loop').fill('Only once')
  await page.getByRole('checkbox', { name: /Keep it as a loop/ }).uncheck()
  await runAndWait(page, mouse)
  const run = page.url()
  await page.goto('/loops')
  await expect(page.getByRole('heading', { name: 'Loops' })).toBeVisible()
  await expect(page.getByRole('link', { name: 'Only once' })).toHaveCount(0)
  await page.goto(run)
  await page.getByRole('button', { name: 'Run again' }).click()
  await expect(page).not.toHaveURL(run)
  await expect(page.getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })
})

test('a new loop that nobody set leaves nothing behind; a copy and the bin can be undone', async ({ page }) => {
  await page.goto('/loops')
  const rows = page.getByRole('main').getByRole('listitem')
  await expect(rows.first()).toBeVisible()
  const before = await rows.count()
  await page.getByRole('button', { name: 'New loop' }).click()
  await expect(page.getByLabel('Name of the loop')).toBeVisible()
  await page.getByRole('link', { name: 'Loops' }).click()
  await expect(rows).toHaveCount(before)
  // One that is set has an address of its own, and is there when it is asked for anew.
  await page.getByRole('button', { name: 'New loop' }).click()
  await page.getByLabel('Name of the loop').fill('Set at last')
  await page.getByLabel('Name of the loop').press('Enter')
  await expect(page).not.toHaveURL(/\/new$/)
  await page.reload()
  await expect(page.getByLabel('Name of the loop')).toHaveValue('Set at last')
  await page.getByRole('link', { name: 'Loops' }).click()
  await page.getByRole('button', { name: 'Put Set at last in the bin' }).click()
  await expect(rows).toHaveCount(before)
  await page.getByRole('button', { name: 'Duplicate Vessels for the shop' }).click()
  await expect(page.getByLabel('Name of the loop')).toHaveValue(/Vessels for the shop \d/)
  await page.getByRole('link', { name: 'Loops' }).click()
  await expect(rows).toHaveCount(before + 1)
  await page.getByRole('button', { name: /Put Vessels for the shop \d in the bin/ }).click()
  await expect(rows).toHaveCount(before)
  await page
    .getByText(/Vessels for the shop \d is in the bin/)
    .getByRole('button', { name: 'Take it back' })
    .click()
  await expect(rows).toHaveCount(before + 1)
  await page.getByRole('button', { name: /Put Vessels for the shop \d in the bin/ }).click()
  await expect(rows).toHaveCount(before)
})

test('from a folder that is not there, the way back is one click', async ({ page }) => {
  await page.getByRole('button', { name: 'Run over a folder' }).click()
  const form = page.getByRole('dialog', { name: 'Run over a folder' })
  await form.getByRole('textbox', { name: 'Which pictures' }).fill('/not/here')
  await form.getByRole('button', { name: 'Choose: Which pictures' }).click()
  const browser = page.getByRole('dialog', { name: 'Which pictures' })
  await expect(browser.getByRole('alert')).toBeVisible()
  await browser.getByRole('button', { name: 'All folders' }).click()
  await expect(browser.getByRole('button', { name: 'Take pictures' })).toBeVisible()
  await browser.getByLabel('Find in this folder').fill('mark')
  await expect(browser.getByRole('button', { name: 'Take marks' })).toBeVisible()
  await expect(browser.getByRole('button', { name: 'Take pictures' })).toHaveCount(0)
})

test('what a loop asks is asked from the list too; nothing written is told', async ({ page }) => {
  const asking = { ...newStep('stamp-text', 'a', { text: 'x' }), open: [{ setting: 'text', question: 'Whose pictures?' }] }
  const macro = await keepMacro(page, 'Whose', [asking])
  await saveLoop(page, {
    id: 'whose',
    name: 'Asks whose',
    intake: intakeOf(join(pictures, 'tiles')),
    macros: [{ macroId: macro.id, revision: null }],
    deliveries: [{ ...defaultDelivery('d', delivered), longEdgePx: 300 }],
  })
  // Where little motion is wanted, what comes up is filled before it is part of the page.
  await page.emulateMedia({ reducedMotion: 'reduce' })
  await page.goto('/loops')
  await page.getByRole('listitem').filter({ hasText: 'Asks whose' }).getByRole('button', { name: 'Run loop' }).click()
  const dialog = page.getByRole('dialog', { name: 'Before it runs' })
  const field = dialog.getByRole('textbox', { name: 'Whose pictures?' })
  await expect(field).toBeFocused()
  await field.fill('')
  await page.keyboard.press('Enter')
  await expect(dialog.getByText('Nothing is written here yet.')).toBeVisible()
  await field.fill('Tern Lane')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })
  await expect(page.getByText(`${tiles.length} delivered, 0 failed`)).toBeVisible()
})

test('a loop whose folders are asked takes another folder each time, picked by mouse', async ({ page }) => {
  await saveLoop(page, {
    id: 'any-folder',
    name: 'Any folder',
    intake: intakeOf('', { asked: true }),
    deliveries: [{ ...defaultDelivery('d', delivered), longEdgePx: 300 }],
  })
  await page.goto('/loops/any-folder')
  await expect(page.getByText('Which pictures is asked before each run, and nothing is answered yet.')).toBeVisible()
  await page.getByRole('button', { name: 'Run loop', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: 'Before it runs' })
  await dialog.getByRole('button', { name: 'Choose: Which pictures?' }).click()
  const browser = page.getByRole('dialog', { name: 'Which pictures?' })
  await browser.locator('button', { has: page.locator('b', { hasText: /^pictures$/ }) }).click()
  await browser.getByRole('button', { name: 'Take tiles', exact: true }).click()
  await dialog.getByRole('button', { name: 'Run loop' }).click()
  await expect(page.getByText(`${tiles.length} delivered, 0 failed`)).toBeVisible({ timeout: 120_000 })
  await page.goto('/loops/any-folder')
  await expect(page.getByRole('textbox', { name: 'Intake folder', exact: true })).toHaveValue(join(pictures, 'tiles'))
  await expect(page.getByRole('switch', { name: 'Asked before each run', exact: true })).toBeChecked()
})

test('a name is put together by clicks, where the caret is; a field that is none is marked', async ({ page }) => {
  await page.getByRole('button', { name: 'Run over a folder' }).click()
  const names = page.getByRole('combobox', { name: 'Names', exact: true })
  await names.fill('a-b')
  await names.press('ArrowLeft')
  await page.getByRole('button', { name: /^Put in \{n:001\}/ }).click()
  await expect(names).toHaveValue('a-{n:001}b')
  await page.keyboard.type('x')
  await expect(names).toHaveValue('a-{n:001}xb')
  await expect(page.getByText('a-001xb.jpg')).toBeVisible()
  await names.fill('{nothing}')
  await expect(page.getByText(/\{nothing\} is not a field/)).toBeVisible()
  await expect(page.getByRole('dialog').getByRole('button', { name: 'Run', exact: true })).toBeDisabled()
})

test('what a macro covers on the bench is said, and taken back', async ({ page }) => {
  await findStep(page, hand(), 'exposure')
  // The edit is stored before the page is left.
  await expect.poll(async () => (await (await page.request.get('/api/bench')).json()).cursor).toBeGreaterThan(0)
  await page.getByRole('link', { name: 'Macros' }).click()
  await page.getByRole('listitem').filter({ hasText: 'Even light' }).first().getByRole('button', { name: 'Open on the bench' }).click()
  const beads = page.locator('[data-bead]')
  await expect(page.getByText('1 step that was not kept lay on the wire.')).toBeVisible()
  await expect(beads).toHaveCount(3)
  await page.getByRole('button', { name: 'Take it back' }).click()
  await expect(beads).toHaveCount(1)
  await expect(beads).toHaveAccessibleName(/Exposure/)
})
