import { chmodSync, existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, it, vi } from 'vitest'
import { findRun, type StoredRun } from '@/store/runs'
import { fillIntake, testApplication, testLoop } from '../../../tests/application'
import { startRun } from './start'
import { programAtEnd, tellEnd } from './tell-end'

const given = (program?: string): NodeJS.ProcessEnv => ({ NODE_ENV: 'test', COPPER_LOOP_AT_END: program })

it('starts the program that was named, with the report of the run; a try is not told, and a program that is gone harms nothing', async () => {
  const app = testApplication()
  fillIntake(app, 1)
  const run = findRun(app.context.db, (await startRun(app.context, testLoop(app))).id) as StoredRun
  const [program, told] = [join(app.root, 'tell'), join(app.root, 'told')]
  // As an attacker might name a folder: nothing of it is read by a shell.
  writeFileSync(program, `#!/bin/sh\ncp "$1" "${told}.part" && mv "${told}.part" "${told}"\n`)
  chmodSync(program, 0o700)
  await tellEnd(app.context, { ...run, isTry: true }, program)
  await tellEnd(app.context, run, join(app.root, 'gone'))
  await tellEnd(app.context, run, null)
  await tellEnd(app.context, run, program)
  await vi.waitFor(() => expect(existsSync(told)).toBe(true), { timeout: 10_000 })
  expect(JSON.parse(readFileSync(told, 'utf8'))).toMatchObject({ format: 'copper-loop/report', run: run.number })
  expect([programAtEnd(given()), programAtEnd(given(' /bin/true '))]).toEqual([null, '/bin/true'])
})
