import { describe, expect, it } from 'vitest'
import { operations } from '@/operations'
import { balanceChecks } from './outside/balance'
import type { Checks } from './outside/checks'
import { colourChecks } from './outside/colour'
import { effectChecks } from './outside/effects'
import { finishingChecks } from './outside/finishing'
import { frameChecks } from './outside/frame'
import { geometryChecks } from './outside/geometry'
import { noiseChecks } from './outside/noise'
import { sharpeningChecks } from './outside/sharpening'
import { toneChecks } from './outside/tone'

/* Every operation against something outside the project. */

const checks: Checks = {
  ...balanceChecks,
  ...colourChecks,
  ...effectChecks,
  ...finishingChecks,
  ...frameChecks,
  ...geometryChecks,
  ...noiseChecks,
  ...sharpeningChecks,
  ...toneChecks,
}

describe('outside checks', () => {
  it('there is one for every operation of the catalogue', () => {
    expect(Object.keys(checks).sort()).toEqual(operations.map((operation) => operation.id).sort())
  })
  it.each(Object.entries(checks).map(([id, [title, check]]) => [id, title, check] as const))('%s: %s', (_, __, check) => check())
})
