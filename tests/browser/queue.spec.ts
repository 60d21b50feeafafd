import { cpSync, mkdirSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { expect, type Page, test } from '@playwright/test'
import { intakeOf } from '@/jobs/loop'
import { newStep } from '@/macros/step'
import { keepMacro, root, saveLoop } from './loops'

/* Runs in line, loops that start by themselves, and what is told and kept. */

const small = [newStep('resize', 'r', { lengthPx: 200 })]
const fill = (folder: string, count: number): string => {
  mkdirSync(folder, { recursive: true })
  for (let i = 0; i < count; i++) cpSync('demo/odd-files/SHELF.JPG', join(folder, `p${i}.jpg`))
  return folder
}
/** On a busy machine a click may miss the dialog, which is still growing. */
const putInLine = (page: Page): Promise<void> =>
  expect(async () => {
    const button = page.getByRole('button', { name: 'Put in line' })
    if (await button.isVisible()) await button.click({ timeout: 1000 })
    await expect(page).toHaveURL(/\/runs\/.+/, { timeout: 5000 })
  }).toPass({ timeout: 120_000 })
const rowOf = (page: Page, name: string) => page.getByRole('listitem').filter({ hasText: name })

test('a loop is mended where its problem is told, put in line for later, moved up, started, and its end is notified', async ({
  page,
  context,
}) => {
  await context.grantPermissions(['notifications'])
  await page.addInitScript(() => {
    const told: string[] = []
    Object.assign(window, { told })
    class Told {
      static permission = 'granted'
      static requestPermission = async () => 'granted'
      constructor(title: string, { body }: { body: string }) {
        told.push(`${title}: ${body}`)
      }
    }
    Object.assign(window, { Notification: Told })
  })
  const macro = await keepMacro(page, 'Small', small)
  const intake = fill(join(root, 'queue', 'in'), 3)
  const uses = [{ macroId: macro.id, revision: null }]
  await saveLoop(page, { id: 'first', name: 'First in line', intake: intakeOf(intake), macros: uses })
  await saveLoop(page, { id: 'second', name: 'Second in line', intake: intakeOf(intake), macros: uses })
  await page.goto('/settings')
  await page.getByRole('switch', { name: 'Notify when a run is done' }).click()

  for (const id of ['first', 'second']) {
    await page.goto(`/loops/${id}`)
    if (id === 'second') {
      await page.getByLabel('Delivery folder', { exact: true }).fill(join(intake, 'out'))
      await expect(page.getByText('1 thing to mend')).toBeVisible()
      await expect(page.getByRole('button', { name: 'Run loop' })).toBeDisabled()
      await page.getByRole('button', { name: 'Pass over out' }).click()
      await expect(page.getByText('1 thing to mend')).toBeHidden()
    }
    await page.getByRole('button', { name: 'Other ways to run' }).click()
    await page.getByRole('menuitem', { name: 'Everything, at a later time' }).click()
    await putInLine(page)
    await expect(page.getByText(/^Starts (today|tomorrow)/).first()).toBeVisible()
  }
  await page.getByRole('link', { name: 'Runs', exact: true }).click()
  const names = () => page.getByRole('listitem').locator('a').allTextContents()
  await expect.poll(async () => (await names()).slice(0, 2).join()).toMatch(/First.*Second/)
  await rowOf(page, 'Second in line')
    .getByRole('button', { name: /Move run \d+ up/ })
    .click()
  await expect.poll(async () => (await names()).slice(0, 2).join()).toMatch(/Second.*First/)
  await rowOf(page, 'Second in line').getByRole('button', { name: 'Start now' }).click()
  await expect(rowOf(page, 'Second in line').getByText('Done', { exact: true })).toBeVisible()
  expect(await page.evaluate(() => (window as unknown as { told: string[] }).told)).toEqual([
    expect.stringMatching(/^Run \d+ · Second in line: 3 delivered, 0 failed, 3 originals unchanged$/),
  ])
  expect(readdirSync(join(intake, 'out'))).toHaveLength(3)
  await expect(rowOf(page, 'First in line').getByText(/^Starts /)).toBeVisible()

  await page.getByRole('link', { name: /First in line/ }).click()
  await page.getByRole('button', { name: 'Stop run' }).click()
  await page.getByRole('tooltip').getByRole('button', { name: 'Stop run' }).click()
  await expect(page.getByText('Stopped', { exact: true })).toBeVisible()
  await page.getByText('Report', { exact: true }).click()
  await expect(page.getByText('p1.jpg', { exact: true })).toBeVisible()
  await expect(page.getByText('– skipped', { exact: true })).toHaveCount(3)
})

test('a loop starts by itself once pictures have come, and its card says that it does', async ({ page }) => {
  const macro = await keepMacro(page, 'Small too', small)
  const intake = fill(join(root, 'arrivals', 'in'), 0)
  await saveLoop(page, { id: 'arrivals', name: 'As they come', intake: intakeOf(intake), macros: [{ macroId: macro.id, revision: null }] })
  await page.goto('/loops/arrivals')
  // Left at once, by reloading and by a link: the edit is there all the same.
  await page.getByText('At a time of day', { exact: true }).click()
  await page.reload()
  await expect(page.getByRole('textbox', { name: 'Time of day' })).toHaveValue('18:30')
  await page.getByText('When pictures come', { exact: true }).click()
  await expect(page.getByText('It takes only what it has not delivered yet')).toBeVisible()
  await page.getByRole('link', { name: 'Loops', exact: true }).click()
  await expect(page.getByRole('listitem').filter({ hasText: 'As they come' }).getByText('Starts when pictures come')).toBeVisible()
  fill(intake, 2)
  await page.getByRole('link', { name: 'Runs', exact: true }).click()
  await expect(rowOf(page, 'As they come').getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })
  await expect(rowOf(page, 'As they come').getByText('2 delivered, 0 failed')).toBeVisible()
})

test('Settings go back to a copy: everything is as it was then', async ({ page }) => {
  await saveLoop(page, { id: 'kept', name: 'As it was' })
  await page.goto('/settings')
  const copies = page.getByRole('list', { name: 'Copies' }).getByRole('listitem')
  const count = await copies.count()
  await page.getByRole('button', { name: 'Make a copy' }).click()
  await expect(copies).toHaveCount(count + 1)
  await saveLoop(page, { id: 'kept', name: 'Changed since' })
  await copies.first().getByRole('button', { name: 'Go back to it' }).click()
  await page.getByRole('button', { name: 'Go back', exact: true }).press('Enter')
  await expect(copies.filter({ hasText: 'before going back' })).toHaveCount(1)
  await page.goto('/loops')
  await expect(page.getByRole('link', { name: 'As it was' })).toBeVisible()
  await expect(page.getByText('Changed since')).toHaveCount(0)
  // The runner goes on working with what was gone back to.
  expect(await (await page.request.get('/api/status')).json()).toMatchObject({ runner: { away: false, trouble: null } })
})
