import { cpSync, mkdirSync, mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { defaultDelivery } from '@/jobs/delivery'
import { intakeOf, type Loop, newLoop } from '@/jobs/loop'
import { newStep, type Step } from '@/macros/step'
import { type Context, openContext } from '@/services/context'
import { saveLoop } from '@/services/loops'
import { insertMacro } from '@/store/macros'

/** An application of its own in a temporary folder: database, one root with an intake and a place to deliver to. */
export interface TestApplication {
  readonly context: Context
  readonly environment: NodeJS.ProcessEnv
  readonly root: string
  readonly intake: string
  readonly delivery: string
}

export const testMacroId = 'macro'
export const quickSteps: readonly Step[] = [newStep('exposure', 'a', { exposureEv: 0.2 }), newStep('resize', 'b', { lengthPx: 200 })]

export function testApplication(steps: readonly Step[] = quickSteps): TestApplication {
  const folder = mkdtempSync(join(tmpdir(), 'copper-loop-app-'))
  const root = join(folder, 'root')
  const intake = join(root, 'intake')
  mkdirSync(intake, { recursive: true })
  const environment = { ...process.env, COPPER_LOOP_DATA: join(folder, 'data'), COPPER_LOOP_ROOTS: root }
  const context = openContext(environment)
  insertMacro(context.db, { id: testMacroId, name: 'Quick', notes: '', tags: [], steps }, Date.now())
  return { context, environment, root, intake, delivery: join(root, 'delivered') }
}

/** A loop over the intake with one delivery, stored. */
export function testLoop(app: TestApplication, part: Partial<Loop> = {}, delivery: Partial<Loop['deliveries'][number]> = {}): Loop {
  const loop = newLoop(`loop-${Math.random()}`, {
    name: 'Test loop',
    intake: intakeOf(app.intake),
    macros: [{ macroId: testMacroId, revision: null }],
    deliveries: [{ ...defaultDelivery('web', app.delivery), ...delivery }],
    ...part,
  })
  return saveLoop(app.context, loop)
}

/** Copies of demo pictures under new names: `count` sources that decode for real. */
export function fillIntake(app: TestApplication, count: number, from = 'demo/pictures/vessels/TLK27_0418.jpg'): void {
  for (let i = 0; i < count; i++) cpSync(from, join(app.intake, `picture-${i + 1}.jpg`))
}
