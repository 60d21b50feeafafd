import { mkdirSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { intakeOf, type Loop } from '@/jobs/loop'
import { listItems } from '@/store/runs'
import { fillIntake, type TestApplication, testApplication, testLoop } from '../../tests/application'
import { loopById } from './loops'
import { preflight } from './preflight/preflight'
import { startRun } from './runs/start'
import { tryLoop } from './runs/tries'

const asking = (app: TestApplication, folder = ''): Loop =>
  testLoop(app, { intake: intakeOf(folder, { asked: true }) }, { folder: folder && app.delivery, folderAsked: true })
const answers = (app: TestApplication) => ({ 'Which pictures?': app.intake, 'Where to?': join(app.root, 'tuesday') })

describe('a loop that asks for its folders', () => {
  it('lacks nothing but its answers, runs with them, and is asked from them the next time', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    const loop = asking(app)
    const { problems, questions } = await preflight(app.context, loop)
    expect(problems.every(({ isAsked }) => isAsked)).toBe(true)
    expect(questions.map(({ question }) => question)).toEqual(['Which pictures?', 'Where to?'])
    await expect(startRun(app.context, loop)).rejects.toMatchObject({ code: 'loopNotReady' })

    const run = await startRun(app.context, loop, { answers: answers(app) })
    const results = listItems(app.context.db, run.id).flatMap(({ results }) => results)
    expect(results.map(({ targetPath }) => dirname(targetPath))).toEqual([join(app.root, 'tuesday'), join(app.root, 'tuesday')])
    const next = loopById(app.context, loop.id)
    expect([next.intake.folder, next.deliveries[0]?.folder]).toEqual([app.intake, join(app.root, 'tuesday')])
    expect((await preflight(app.context, next)).problems.some(({ blocks }) => blocks)).toBe(false)
  })

  it('stands where it did when the answer was wrong, and after a try', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    const monday = join(app.root, 'monday')
    mkdirSync(monday)
    const loop = asking(app, monday)
    const wrong = { ...answers(app), 'Which pictures?': join(app.root, 'nowhere') }
    await expect(startRun(app.context, loop, { answers: wrong })).rejects.toMatchObject({ code: 'loopNotReady' })
    const outside = { ...answers(app), 'Where to?': '/etc' }
    await expect(startRun(app.context, loop, { answers: outside })).rejects.toMatchObject({ code: 'loopNotReady' })
    const attempt = await tryLoop(app.context, loop, answers(app))
    const [item] = listItems(app.context.db, attempt.id)
    expect(item?.sourcePath).toBe(join(app.intake, 'picture-1.jpg'))
    expect(item?.results[0]?.targetPath.startsWith(app.root)).toBe(false)
    expect(loopById(app.context, loop.id)).toEqual(loop)
  })
})
