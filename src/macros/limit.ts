import * as yup from 'yup'
import { plainNumber } from '@/base/format'
import { keysOf } from '@/base/schema'
import { defaultSettings, type NumberSetting, number, type Settings } from '@/operations'
import { finiteSchema, pairSchema } from '@/operations/declare/kinds/number'

/** Where in the picture a step applies. Places are shares of the picture's sides, so that one limit serves every size and shape. */
export type LimitKind = 'tone' | 'colour' | 'edges' | 'smooth' | 'linear' | 'radial' | 'brush'

/** How a limit joins those before it: both must hold, either may, or those before without this one. */
export const limitJoins = ['and', 'or', 'without'] as const
export type LimitJoin = (typeof limitJoins)[number]

/** One pull of the brush. */
export interface Stroke {
  /** Diameter, of the picture's long edge. */
  readonly sizePercent: number
  /** Share of the radius over which it fades. */
  readonly softnessPercent: number
  readonly erases: boolean
  /** Places in per cent of the picture's width and height. */
  readonly points: readonly (readonly [xPercent: number, yPercent: number])[]
}

export interface Limit {
  readonly kind: LimitKind
  readonly join: LimitJoin
  readonly inverted: boolean
  readonly settings: Readonly<Record<string, number>>
  /** Of a brushed limit alone. */
  readonly strokes: readonly Stroke[]
  /** In the engine alone: a group of its own begins, that must hold besides those before it. */
  readonly begins?: true
}

const percent = (label: string, defaultValue: number, help: string, min = 0, max = 100): NumberSetting =>
  number({ label, unit: '%', min, max, step: 0.5, default: defaultValue, help })

/** Set on the picture itself; the numbers are there to be read and typed. */
const position = (label: string, defaultValue: number, help: string, min = -50, max = 150): NumberSetting => ({
  ...percent(label, defaultValue, help, min, max),
  typed: true,
})

const feather = number({
  label: 'Feather',
  unit: 'px',
  min: 0,
  max: 200,
  step: 1,
  default: 4,
  help: 'Blurs the limit by this much, in full-size pixels, so that it has no edge to see.',
})

interface LimitDeclaration {
  readonly label: string
  readonly help: string
  readonly settings: Readonly<Record<string, NumberSetting>>
  describe(settings: Readonly<Record<string, number>>): string
}

const edgeSettings = {
  radiusPx: number({
    label: 'Size',
    unit: 'px',
    min: 0.5,
    max: 20,
    step: 0.1,
    default: 2,
    logarithmic: true,
    help: 'How wide edges are looked for, in full-size pixels.',
  }),
  thresholdLevels: number({
    label: 'Threshold',
    unit: 'levels',
    min: 0.5,
    max: 60,
    step: 0.5,
    default: 5,
    help: 'How strong an edge must be, on the scale of 0–255.',
  }),
  featherPx: feather,
}

/** Every kind of limit with its settings. Controls, validation and the schema come from here. */
export const limitKinds: Readonly<Record<LimitKind, LimitDeclaration>> = {
  tone: {
    label: 'Tone range',
    help: 'Only tones between two lightnesses.',
    settings: {
      fromPercent: percent('From', 0, 'Darkest lightness that is taken; 0 % is black.'),
      toPercent: percent('To', 40, 'Brightest lightness that is taken; 100 % is white.'),
      softPercent: percent('Soft ends', 15, 'How far it fades beyond both ends.', 0, 50),
      featherPx: feather,
    },
    describe: (s) => `tones ${plainNumber(s.fromPercent ?? 0)}–${plainNumber(s.toPercent ?? 0)} %`,
  },
  colour: {
    label: 'Colour range',
    help: 'Only colours around a hue.',
    settings: {
      hueDegrees: number({
        label: 'Hue',
        unit: '°',
        min: 0,
        max: 360,
        step: 1,
        default: 40,
        help: '0° to 30° is red, 110° yellow, 145° green, 195° cyan, 265° blue, 330° magenta.',
      }),
      widthDegrees: number({
        label: 'Width',
        unit: '°',
        min: 2,
        max: 180,
        step: 1,
        default: 40,
        help: 'Hues this far apart are taken in full.',
      }),
      softDegrees: number({
        label: 'Soft ends',
        unit: '°',
        min: 0,
        max: 90,
        step: 1,
        default: 20,
        help: 'How far it fades beyond both ends.',
      }),
      leastChromaPercent: percent('Least chroma', 10, 'Greyer colours than this are left out; 100 % is as strong as colours get.'),
      featherPx: feather,
    },
    describe: (s) => `hues around ${plainNumber(s.hueDegrees ?? 0)}°`,
  },
  edges: { label: 'Edges', help: 'Only where there is drawing.', settings: edgeSettings, describe: () => 'edges' },
  smooth: { label: 'Smooth areas', help: 'Only where there is no drawing.', settings: edgeSettings, describe: () => 'smooth areas' },
  linear: {
    label: 'Linear gradient',
    help: 'In full on one side of a line, fading to another.',
    settings: {
      startXPercent: position('Full, across', 50, 'Where it begins to fade, from the left edge.'),
      startYPercent: position('Full, down', 20, 'Where it begins to fade, from the upper edge.'),
      endXPercent: position('Gone, across', 50, 'Where it has faded, from the left edge.'),
      endYPercent: position('Gone, down', 60, 'Where it has faded, from the upper edge.'),
    },
    describe: () => 'a gradient',
  },
  radial: {
    label: 'Radial gradient',
    help: 'In full inside an ellipse, fading to its border.',
    settings: {
      centreXPercent: position('Centre, across', 50, 'From the left edge.'),
      centreYPercent: position('Centre, down', 50, 'From the upper edge.'),
      radiusXPercent: position('Half-width', 35, 'Of the width.', 1, 200),
      radiusYPercent: position('Half-height', 35, 'Of the height.', 1, 200),
      softPercent: percent('Soft edge', 60, 'Share of the radius over which it fades.'),
    },
    describe: () => 'an ellipse',
  },
  brush: {
    label: 'Brushed',
    help: 'Only where it is brushed.',
    settings: { featherPx: { ...feather, default: 0 } },
    describe: () => 'brushed areas',
  },
}

export const limitBounds = { limits: 12, strokes: 400, points: 4000 } as const

export const newLimit = (kind: LimitKind): Limit => ({
  kind,
  join: 'and',
  inverted: false,
  settings: defaultSettings(limitKinds[kind].settings) as Settings as Record<string, number>,
  strokes: [],
})

const joinWords: Readonly<Record<LimitJoin, string>> = { and: ' within ', or: ' and also ', without: ' but not ' }

/** In words, behind "on": `tones 0–40 %`, `edges but not hues around 40°`. */
export const describeLimits = (limits: readonly Limit[]): string =>
  limits.reduce((words, limit, i) => {
    const own = `${limit.inverted ? 'everything but ' : ''}${limitKinds[limit.kind].describe(limit.settings)}`
    return i === 0 ? own : `${words}${joinWords[limit.join]}${own}`
  }, '')

const flag = yup.boolean().strict(true).required('is missing').typeError('must be true or false')

const strokeSchema = yup
  .object({
    sizePercent: finiteSchema(0.1, 100),
    softnessPercent: finiteSchema(0, 100),
    erases: flag,
    points: yup
      .array(pairSchema(-50, 150))
      .strict(true)
      .required('is missing')
      .typeError('must be a list of points')
      .min(1, 'must have a point')
      .max(limitBounds.points, `must have at most ${limitBounds.points} points`),
  })
  .noUnknown('holds something unknown: ${unknown}')
  .strict(true)
  .required('is missing')

/** Strict schema of any limit; its kind decides which settings it has. */
export const limitSchema = yup.lazy((value: unknown) => {
  const kind = typeof value === 'object' && value !== null && 'kind' in value ? String(value.kind) : ''
  const declared = Object.hasOwn(limitKinds, kind) ? limitKinds[kind as LimitKind].settings : {}
  const settings = Object.fromEntries(Object.entries(declared).map(([key, { min, max }]) => [key, finiteSchema(min, max)]))
  const kinds = Object.keys(limitKinds)
  return yup
    .object({
      kind: yup
        .string()
        .strict(true)
        .required('is missing')
        .oneOf(kinds, `must be one of ${kinds.join(', ')}`),
      join: yup
        .string()
        .strict(true)
        .required('is missing')
        .oneOf(limitJoins, `must be one of ${limitJoins.join(', ')}`),
      inverted: flag,
      settings: yup.object(settings).noUnknown('holds something unknown: ${unknown}').strict(true).required('is missing'),
      strokes: yup
        .array(strokeSchema)
        .strict(true)
        .required('is missing')
        .typeError('must be a list')
        .max(kind === 'brush' ? limitBounds.strokes : 0, 'has more strokes than it may have'),
    })
    .noUnknown('holds something unknown: ${unknown}')
    .strict(true)
    .required('is missing')
})

const listSchema = yup.array(limitSchema).strict(true).required().min(1).max(limitBounds.limits)

/** A limit that was copied as text; undefined for anything else. */
export function readLimits(text: string): readonly Limit[] | undefined {
  try {
    const value: unknown = JSON.parse(text)
    return isListOfLimits(value) ? value : undefined
  } catch {
    return undefined
  }
}
const isListOfLimits = (value: unknown): value is readonly Limit[] => listSchema.isValidSync(value, { strict: true })

const numberJson = ({ min, max, label, help, default: start }: NumberSetting) => ({
  type: 'number',
  minimum: min,
  maximum: max,
  title: label,
  description: help,
  default: start,
})

const objectJson = (properties: Readonly<Record<string, unknown>>) => ({
  type: 'object',
  properties,
  required: Object.keys(properties),
  additionalProperties: false,
})

const strokeJson = objectJson({
  sizePercent: { type: 'number', minimum: 0.1, maximum: 100 },
  softnessPercent: { type: 'number', minimum: 0, maximum: 100 },
  erases: { type: 'boolean' },
  points: {
    type: 'array',
    minItems: 1,
    maxItems: limitBounds.points,
    items: { type: 'array', minItems: 2, maxItems: 2, items: { type: 'number', minimum: -50, maximum: 150 } },
  },
})

/** The same as JSON Schema. */
export const limitJsonSchemas = keysOf(limitKinds)
  .map((kind) => [kind, limitKinds[kind]] as const)
  .map(([kind, { settings }]) =>
    objectJson({
      kind: { const: kind },
      join: { enum: [...limitJoins] },
      inverted: { type: 'boolean' },
      settings: objectJson(Object.fromEntries(Object.entries(settings).map(([key, setting]) => [key, numberJson(setting)]))),
      strokes: { type: 'array', maxItems: kind === 'brush' ? limitBounds.strokes : 0, items: strokeJson },
    }),
  )
