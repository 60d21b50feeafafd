import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { readMacroFile, writeMacroFile } from '@/macros/codec'
import { completeStep, newStep, type Step, stepSetting } from '@/macros/step'
import { findOperation, operations, type Settings } from '@/operations'
import { busyPicture } from './pictures'
import { renderOne } from './render'

/*
 * Steps as earlier versions wrote them, and what those made of a picture: SHA-256 of its pixels, computed by the version
 * before the operation got other settings. Read now, each must still make the same. One was computed anew when full range became a table:
 * 2 of its 18,432 values were rounded the other way.
 */
const older: readonly { operation: string; settings: Settings; sha256: string }[] = JSON.parse(
  readFileSync('tests/fixtures/older-steps.json', 'utf8'),
)

describe('a step of an earlier version', () => {
  it.each(older.map((step) => [`${step.operation} ${JSON.stringify(step.settings)}`, step] as const))(
    '%s makes the same',
    async (_, step) => {
      const file = JSON.stringify({
        format: 'copper-loop/macro',
        version: 1,
        name: 'Old',
        notes: '',
        tags: [],
        steps: [{ ...newStep('exposure', 'old'), operation: step.operation, settings: step.settings }],
      })
      const macro = readMacroFile(file)
      const [read] = macro.steps
      const operation = findOperation(read?.operation ?? '')
      expect(read?.operation).toBe(operation?.id)
      expect(Object.keys(read?.settings ?? {}).sort()).toEqual(Object.keys(operation?.settings ?? {}).sort())
      const { pixels } = await renderOne(busyPicture(96, 64), read?.operation ?? '', read?.settings ?? {})
      expect(createHash('sha256').update(pixels).digest('hex')).toBe(step.sha256)
      expect(readMacroFile(writeMacroFile(macro))).toEqual(macro)
    },
  )
  it('is there for every operation that upgrades', () => {
    const tested = new Set(older.map(({ operation }) => findOperation(operation)?.id))
    expect(operations.filter(({ upgrade }) => upgrade).map(({ id }) => id)).toEqual(
      operations.map(({ id }) => id).filter((id) => tested.has(id)),
    )
  })
  it('is told in the words of now', () => {
    const step = (settings: Settings): Step => completeStep({ ...newStep('exposure', 's'), operation: 'auto-levels', settings })
    expect(stepSetting(step({ range: 'together' }))).toBe('colours as they are, 50 % bold')
    expect(stepSetting(step({ range: 'each', shadowClipPercent: 5, highlightClipPercent: 5 }))).toBe('colours balanced, 100 % bold')
  })
  it('forgets what was, once how bold it is has been changed', () => {
    const old = completeStep({
      ...newStep('exposure', 's'),
      operation: 'auto-levels',
      settings: { shadowClipPercent: 0.5, highlightClipPercent: 0 },
    })
    const operation = findOperation('full-range')
    expect(operation?.describe(old.settings)).toContain('0.5 / 0 %')
    expect(operation?.describe({ ...old.settings, boldPercent: 60 })).toBe('colours as they are, 60 % bold')
  })
})
