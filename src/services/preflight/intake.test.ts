import { cpSync, mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { defaultDelivery } from '@/jobs/delivery'
import { intakeOf, type LoopIntake } from '@/jobs/loop'
import { type TestApplication, testApplication, testLoop } from '../../../tests/application'
import { preflight } from './preflight'

function filled(): TestApplication {
  const app = testApplication()
  cpSync('demo/pictures', app.intake, { recursive: true })
  return app
}
const taken = async (app: TestApplication, part: Partial<LoopIntake>, folder = app.intake) =>
  preflight(app.context, testLoop(app, { intake: intakeOf(folder, part) }))
const names = async (app: TestApplication, part: Partial<LoopIntake>) =>
  (await taken(app, part)).pictures.map(({ relativePath }) => relativePath.split('/').at(-1))

describe('an intake', () => {
  it('takes only what its filters mean', async () => {
    const app = filled()
    const all = await names(app, {})
    const noisy = await names(app, { only: [{ kind: 'iso', from: 1600, to: null }] })
    expect(noisy.length).toBeGreaterThan(0)
    expect(noisy.length).toBeLessThan(all.length)
    expect(await names(app, { only: [{ kind: 'name', like: '*0401*' }] })).toEqual(['TLK27_0401.jpg'])
    const both = await names(app, {
      only: [
        { kind: 'iso', from: 1600, to: null },
        { kind: 'orientation', is: 'portrait' },
      ],
    })
    expect(both.every((name) => noisy.includes(name))).toBe(true)
  })
  it('says so where nothing is meant', async () => {
    const { problems } = await taken(filled(), { only: [{ kind: 'camera', has: 'nobody' }] })
    expect(problems[0]).toMatchObject({ blocks: true, sentence: expect.stringMatching(/None of the 32 pictures .*cameras like nobody/) })
  })
  it('passes over subfolders by name', async () => {
    const app = filled()
    const { pictures } = await taken(app, { without: ['kiln*', 'TILES'] })
    expect(new Set(pictures.map(({ relativePath }) => relativePath.split('/')[0]))).toEqual(new Set(['vessels']))
  })
  it('takes several folders, each picture once, under the name of its own', async () => {
    const app = filled()
    const check = await taken(app, { more: [join(app.intake, 'vessels'), join(app.intake, 'tiles')] }, join(app.intake, 'tiles'))
    expect(check.totals).toMatchObject({ folders: 2 })
    expect(new Set(check.pictures.map(({ sourcePath }) => sourcePath)).size).toBe(check.pictures.length)
  })
  it('goes by name through all folders, or by time', async () => {
    const app = filled()
    const byName = await names(app, { order: 'name' })
    expect(byName).toEqual([...byName].sort())
    const byTime = await names(app, { order: 'taken' })
    expect(new Set(byTime)).toEqual(new Set(byName))
  })
  it('may hold a delivery in a subfolder that it passes over, and in no other', async () => {
    const app = filled()
    mkdirSync(join(app.intake, 'out'))
    const within = (part: Partial<LoopIntake>) =>
      preflight(
        app.context,
        testLoop(app, { intake: intakeOf(app.intake, part), deliveries: [defaultDelivery('d', join(app.intake, 'out', 'web'))] }),
      )
    expect((await within({})).problems[0]?.sentence).toMatch(/lies inside the intake folder/)
    expect((await within({ without: ['out'] })).problems).toEqual([])
  })
})
