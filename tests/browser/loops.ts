import { join, resolve } from 'node:path'
import { expect, type Page } from '@playwright/test'
import { defaultDelivery } from '@/jobs/delivery'
import { type Loop, newLoop } from '@/jobs/loop'
import type { ShelfMacro } from '@/services/macros'

/* What tests of loops set up beside the pages. */

export const root = resolve('.build/browser-data/demo')

export async function keepMacro(page: Page, name: string, steps: readonly unknown[]): Promise<ShelfMacro> {
  const answer = await page.request.post('/api/macros', { data: { name, notes: '', tags: [], steps } })
  expect(answer.ok()).toBe(true)
  return answer.json()
}
export async function saveLoop(page: Page, part: Partial<Loop> & Pick<Loop, 'id' | 'name'>): Promise<void> {
  const stored = await page.request.get(`/api/loops/${part.id}`)
  const { version } = stored.ok() ? await stored.json() : { version: 0 }
  const loop = newLoop(part.id, { deliveries: [defaultDelivery('d', join(root, 'delivered', part.id))], version, ...part })
  expect((await page.request.post('/api/loops', { data: loop })).ok()).toBe(true)
}
