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

for (const scheme of ['light', 'dark'] as const)
  test(
    `the desk of every operation at 1024 × 700, in ${scheme}: nothing is cut off, and no violations that axe finds`,
    scheme === 'dark' ? soak : {},
    async ({ page }) => {
      await page.setViewportSize({ width: 1024, height: 700 })
      await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
      await layVase(page)
      await page.goto('/macros')
      // Switched off, they take no time; the desk is the same.
      const name = scheme === 'light' ? 'All of them' : 'All of them once more'
      await keepMacro(
        page,
        name,
        operations.map(({ id }) => ({ ...newStep(id, `step-${id}`), enabled: false })),
      )
      await page.reload()
      await page.getByRole('listitem').filter({ hasText: name }).getByRole('button', { name: 'Open on the bench' }).click()
      const beads = page.locator('[data-bead]')
      await expect(beads).toHaveCount(operations.length)
      await expect(page.locator('html')).toHaveAttribute('data-theme', scheme)
      const wrong: string[] = []
      for (const [i, { name }] of operations.entries()) {
        await beads.nth(i).click()
        await expect(page.getByRole('complementary', { name: 'Desk' }).getByRole('heading', { name, exact: true })).toBeVisible()
        const axe = new AxeBuilder({ page }).include('[aria-label=Desk]').setLegacyMode()
        // In the dark only the colours are others.
        const { violations } = await (scheme === 'light'
          ? axe.withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
          : axe.withRules(['color-contrast'])
        ).analyze()
        for (const text of await cutOff(page)) wrong.push(`${name}: “${text}” is cut off`)
        for (const { id, nodes } of violations)
          wrong.push(`${name} in ${scheme}: ${id}: ${nodes.map(({ html }) => html.slice(0, 160)).join(' | ')}`)
      }
      expect(wrong).toEqual([])
    },
  )
