import AxeBuilder from '@axe-core/playwright'
import { expect, type Page, test } from '@playwright/test'
import { newStep } from '@/macros/step'
import { operations } from '@/operations'
import { layVase } from './bench'
import { keepMacro } from './loops'
import { soak } from './soak'

/** Texts on the desk that have not enough room. */
const cutOff = (page: Page): Promise<string[]> =>
  page.getByRole('complementary', { name: 'Desk' }).evaluate((desk) =>
    [...desk.querySelectorAll<HTMLElement>('*')]
      .filter((element) => element.scrollWidth > element.clientWidth + 1 && getComputedStyle(element).overflowX === 'hidden')
      .map((element) => element.textContent ?? '')
      .filter((text) => text !== ''),
  )

/** Opens a macro with a step of every operation, and goes from desk to desk. */
async function onEveryDesk(page: Page, macro: string, look: (operation: string) => Promise<void>): Promise<void> {
  await page.setViewportSize({ width: 1024, height: 700 })
  await layVase(page)
  await page.goto('/macros')
  // Switched off, they take no time; the desk is the same.
  const steps = operations.map(({ id }) => ({ ...newStep(id, `step-${id}`), enabled: false }))
  const { name } = await keepMacro(page, macro, steps)
  await page.reload()
  await page.getByRole('listitem').filter({ hasText: name }).getByRole('button', { name: 'Open on the bench' }).click()
  const beads = page.locator('[data-bead]')
  await expect(beads).toHaveCount(operations.length)
  for (const [i, { name }] of operations.entries()) {
    await beads.nth(i).click()
    await expect(page.getByRole('complementary', { name: 'Desk' }).getByRole('heading', { name, exact: true })).toBeVisible()
    await look(name)
  }
}

test('the desk of every operation at 1024 × 700: nothing is cut off', async ({ page }) => {
  const wrong: string[] = []
  await page.emulateMedia({ reducedMotion: 'reduce' })
  await onEveryDesk(page, 'All of them', async (operation) => {
    for (const text of await cutOff(page)) wrong.push(`${operation}: “${text}” is cut off`)
  })
  expect(wrong).toEqual([])
})

for (const scheme of ['light', 'dark'] as const)
  test(`the desk of every operation at 1024 × 700, in ${scheme}: no violations that axe finds`, soak, async ({ page }) => {
    const wrong: string[] = []
    await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
    await onEveryDesk(page, `All of them in ${scheme}`, async (operation) => {
      const axe = new AxeBuilder({ page }).include('[aria-label=Desk]').setLegacyMode()
      // In the dark only the colours are others.
      const { violations } = await (scheme === 'light'
        ? axe.withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
        : axe.withRules(['color-contrast'])
      ).analyze()
      for (const { id, nodes } of violations) wrong.push(`${operation}: ${id}: ${nodes.map(({ html }) => html.slice(0, 160)).join(' | ')}`)
    })
    await expect(page.locator('html')).toHaveAttribute('data-theme', scheme)
    expect(wrong).toEqual([])
  })
