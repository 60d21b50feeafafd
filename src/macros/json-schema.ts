import { type JsonSchema, kindOf, operations, type Setting } from '@/operations'
import { macroLimits } from './codec'
import { conditionJsonSchemas } from './condition'
import { limitBounds, limitJsonSchemas } from './limit'
import { macroFormat, macroVersion } from './macro'
import { blends } from './step'

const settingSchema = (setting: Setting): JsonSchema => ({
  ...kindOf(setting).json(setting),
  title: setting.label,
  description: setting.help,
  default: setting.default,
})

const stepOf = (id: string, settings: JsonSchema): JsonSchema => ({
  if: { properties: { operation: { const: id } } },
  // biome-ignore lint/suspicious/noThenProperty: a keyword of JSON Schema; nothing awaits this object
  then: { properties: { settings } },
})

/** A step, with the settings of every operation of the catalogue. Those it does not list belong to newer versions: allowed, but not checked. */
function stepJsonSchema(): JsonSchema {
  const known = operations.map((operation) =>
    stepOf(operation.id, {
      description: operation.purpose,
      type: 'object',
      properties: Object.fromEntries(Object.entries(operation.settings).map(([key, setting]) => [key, settingSchema(setting)])),
      additionalProperties: false,
    }),
  )
  return {
    type: 'object',
    properties: {
      id: { type: 'string', maxLength: 64, description: 'Unique within the macro.' },
      operation: { type: 'string', maxLength: 64 },
      settings: { type: 'object' },
      enabled: { type: 'boolean' },
      strengthPercent: { type: 'number', minimum: 0, maximum: 100 },
      blend: { enum: [...blends] },
      note: { type: 'string', maxLength: macroLimits.noteLength },
      open: {
        type: 'array',
        maxItems: macroLimits.openSettings,
        description: 'Settings asked for once before a run; the settings above hold their defaults.',
        items: {
          type: 'object',
          properties: {
            setting: { type: 'string', maxLength: 64 },
            question: { type: 'string', minLength: 1, maxLength: macroLimits.questionLength },
          },
          required: ['setting', 'question'],
          additionalProperties: false,
        },
      },
      limit: { type: 'array', maxItems: limitBounds.limits, items: { oneOf: limitJsonSchemas } },
      when: { type: 'array', maxItems: macroLimits.conditions, items: { oneOf: conditionJsonSchemas } },
    },
    required: ['id', 'operation', 'settings', 'enabled', 'strengthPercent', 'blend', 'when'],
    additionalProperties: false,
    allOf: known,
  }
}

/** A list of steps; a schema that holds one has it as `#/$defs/steps`, since a macro played inside has one, too. */
export const stepsJsonSchema = (): JsonSchema => ({ type: 'array', maxItems: macroLimits.steps, items: stepJsonSchema() })

/** The schema of `*.macro.json`, from the catalogue. */
export function macroJsonSchema(): JsonSchema {
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Copper Loop macro',
    type: 'object',
    properties: {
      format: { const: macroFormat },
      version: { const: macroVersion },
      name: { type: 'string', minLength: 1, maxLength: macroLimits.nameLength },
      notes: { type: 'string', maxLength: macroLimits.notesLength },
      tags: { type: 'array', maxItems: macroLimits.tags, items: { type: 'string', minLength: 1, maxLength: 40 } },
      steps: { $ref: '#/$defs/steps' },
    },
    required: ['format', 'version', 'name', 'notes', 'tags', 'steps'],
    additionalProperties: false,
    $defs: { steps: stepsJsonSchema() },
  }
}
