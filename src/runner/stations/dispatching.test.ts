import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { defaultDelivery } from '@/jobs/delivery'
import { startRun } from '@/services/runs/start'
import { findRun } from '@/store/runs'
import { fillIntake, testApplication, testLoop } from '../../../tests/application'
import { addressesOf, isShared } from './dispatching'

describe('where stations find the main machine', () => {
  it.each([
    [{}, ['http://127.0.0.1:4180']],
    [{ COPPER_LOOP_PORT: '4190' }, ['http://127.0.0.1:4190']],
    [{ COPPER_LOOP_HOST: 'studio' }, ['http://studio:4180']],
    [{ COPPER_LOOP_HOST: 'fe80::1' }, ['http://[fe80::1]:4180']],
  ])('is where it listens, and nowhere else: %j', (environment, expected) =>
    expect(addressesOf(environment as unknown as NodeJS.ProcessEnv)).toEqual(expected),
  )
  it('is each of its addresses where it listens on all', () => {
    const all = addressesOf({ COPPER_LOOP_HOST: '0.0.0.0' } as unknown as NodeJS.ProcessEnv)
    expect(all.at(-1)).toBe('http://127.0.0.1:4180')
    for (const address of all) expect(URL.canParse(address)).toBe(true)
  })
})

describe('a run', () => {
  it('is for stations where pictures and deliveries lie in shared folders, all of them', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    const deliveries = ['out', 'else'].map((name) => defaultDelivery(name, join(app.root, name)))
    const run = findRun(app.context.db, (await startRun(app.context, testLoop(app, { deliveries }))).id)
    if (!run) throw new Error('no run')
    const shares = (...folders: string[]): boolean =>
      isShared(
        app.context,
        run,
        folders.map((path) => ({ path, real: path, sign: 's' })),
      )
    expect(shares(app.root)).toBe(true)
    expect(shares(app.intake, join(app.root, 'out'), join(app.root, 'else'))).toBe(true)
    expect(shares(app.intake, join(app.root, 'out'))).toBe(false)
    expect(shares(join(app.root, 'out'), join(app.root, 'else'))).toBe(false)
    expect(shares(`${app.root}2`)).toBe(false)
    expect(shares()).toBe(false)
  })
})
