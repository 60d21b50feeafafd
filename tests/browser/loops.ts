import { join, resolve } from 'node:path'
import { expect, type Page } from '@playwright/test'
import { freeName } from '@/base/free-name'
import { defaultDelivery } from '@/jobs/delivery'
import { type Loop, newLoop } from '@/jobs/loop'
import type { ShelfMacro } from '@/services/macros'

/* What tests of loops set up beside the pages. */

export const root = resolve('.build/browser-data/demo')

/** Puts a macro on the shelf; under a name that an earlier test has taken, with a number behind it. */
export async function keepMacro(page: Page, name: string, steps: readonly unknown[]): Promise<ShelfMacro> {
  const shelf: readonly ShelfMacro[] = await (await page.request.get('/api/macros')).json()
  const free = freeName(name, shelf)
  const answer = await page.request.post('/api/macros', { data: { name: free, notes: '', tags: [], steps } })
  expect(answer.ok()).toBe(true)
  return answer.json()
}
export async function saveLoop(page: Page, part: Partial<Loop> & Pick<Loop, 'id' | 'name'>): Promise<void> {
  const stored = await page.request.get(`/api/loops/${part.id}`)
  const { version } = stored.ok() ? await stored.json() : { version: 0 }
  const loop = newLoop(part.id, { deliveries: [defaultDelivery('d', join(root, 'delivered', part.id))], version, ...part })
  expect((await page.request.post('/api/loops', { data: loop })).ok()).toBe(true)
}
