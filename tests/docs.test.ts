import { readFileSync } from 'node:fs'
import Ajv2020 from 'ajv/dist/2020'
import { describe, expect, it } from 'vitest'
import { touchUpJsonSchema } from '@/jobs/touch-up-file'
import { writeMacroFile } from '@/macros/codec'
import { macroJsonSchema } from '@/macros/json-schema'
import { newStep } from '@/macros/step'
import { operations } from '@/operations'
import { operationsPage } from '@/operations/as-markdown'

describe('what is made from the catalogue', () => {
  it('docs/operations.md is up to date (npm run docs)', () => expect(readFileSync('docs/operations.md', 'utf8')).toBe(operationsPage()))
  it('docs/schema/macro.schema.json is up to date (npm run docs)', () => {
    expect(JSON.parse(readFileSync('docs/schema/macro.schema.json', 'utf8'))).toEqual(macroJsonSchema())
  })
  it('docs/schema/touch-ups.schema.json is up to date (npm run docs)', () => {
    expect(JSON.parse(readFileSync('docs/schema/touch-ups.schema.json', 'utf8'))).toEqual(touchUpJsonSchema())
  })
})

describe('the macro schema, as ajv reads it (JSON Schema 2020-12)', () => {
  const validate = new Ajv2020({ strict: false }).compile(macroJsonSchema())
  const steps = operations.map((operation) => newStep(operation.id, operation.id))
  const file = () => JSON.parse(writeMacroFile({ name: 'All', notes: '', tags: [], steps }))

  it('takes a file with every operation at its defaults', () => expect([validate(file()), validate.errors]).toEqual([true, null]))
  it.each(operations.map((operation, index) => [operation.id, index] as const))('refuses a setting nobody knows on %s', (_, index) => {
    const broken = file()
    broken.steps[index].settings.unheardOf = 1
    expect(validate(broken)).toBe(false)
  })
  it('refuses what the strict reader refuses: ranges, kinds, missing parts', () => {
    const exposure = steps.findIndex((step) => step.operation === 'exposure')
    for (const value of [99, '1', null]) {
      const broken = file()
      broken.steps[exposure].settings.exposureEv = value
      expect(validate(broken)).toBe(false)
    }
    expect(validate({ ...file(), version: 2 })).toBe(false)
    expect(validate({ ...file(), extra: 1 })).toBe(false)
  })
  it('lets an operation of a newer version through unchecked', () => {
    const newer = file()
    newer.steps.push({ ...newStep('exposure', 'x'), operation: 'dream', settings: { vividness: 3 } })
    expect(validate(newer)).toBe(true)
  })
})
