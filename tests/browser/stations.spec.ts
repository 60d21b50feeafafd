import { expect, test } from '@playwright/test'
import type { StationsView } from '@/contract/answers'

/* Stations as pages show them; what they say is made up here, since this application has none. */

const station = { cores: 8, workers: 8, busy: 5, version: '0.1.0', picturesPerMinute: 96.4, done: 12_345, startedAt: 1e12, trouble: null }
const says: StationsView = {
  trouble: null,
  stations: [
    { ...station, id: 'a', name: 'kiln room', heardAt: Date.now(), isAway: false },
    { ...station, id: 'b', name: 'glaze room', heardAt: Date.now(), isAway: false, busy: 0, trouble: 'A shared folder is not there.' },
    { ...station, id: 'c', name: 'attic', heardAt: Date.now() - 95_000, isAway: true },
  ],
}

test('stations are seen in Runs with their pace, and what is wrong with one in words', async ({ page }) => {
  await page.route('**/api/stations', (route) => route.fulfill({ json: says }))
  await page.goto('/runs')
  const part = page.getByRole('region', { name: 'Stations' })
  await expect(part).toContainText('1 station · 96 a minute')
  await expect(part.getByRole('listitem').filter({ hasText: 'kiln room' })).toContainText('96 a minute')
  await expect(part.getByRole('listitem').filter({ hasText: 'attic' })).toContainText('away')
  await expect(part.getByRole('status')).toHaveText('glaze room: A shared folder is not there.')

  await page.goto('/settings')
  const rows = page.getByRole('region', { name: 'Stations' }).getByRole('row')
  await expect(rows.filter({ hasText: 'kiln room' })).toContainText('5 of 8 at work')
  await expect(rows.filter({ hasText: 'kiln room' })).toContainText('12,345')
  await expect(rows.filter({ hasText: 'attic' })).toContainText(/away\. Its pictures go to others\..*2 min ago/)
})

test('without stations nothing is seen of them in Runs, and Settings say how they are made', async ({ page }) => {
  await page.goto('/runs')
  await expect(page.getByRole('heading', { name: 'Runs' })).toBeVisible()
  await expect(page.getByRole('region', { name: 'Stations' })).toHaveCount(0)
  await page.goto('/settings')
  await expect(page.getByRole('region', { name: 'Stations' })).toContainText('./loop station')
})

test('sixty-four stations leave the runs in view', async ({ page }) => {
  const many = Array.from({ length: 64 }, (_, i) => ({
    ...station,
    id: String(i),
    name: `station number ${i}`,
    heardAt: Date.now(),
    isAway: false,
  }))
  await page.route('**/api/stations', (route) => route.fulfill({ json: { trouble: null, stations: many } satisfies StationsView }))
  await page.setViewportSize({ width: 1024, height: 700 })
  await page.goto('/runs')
  const part = page.getByRole('region', { name: 'Stations' })
  await expect(part).toContainText('64 stations · 6170 a minute')
  expect((await part.boundingBox())?.height).toBeLessThan(180)
})
