import opentype, { type Font } from 'opentype.js'
import { plainNumber, shortNumber } from '@/base/format'
import type { Size } from '@/base/geometry'
import { memoised } from '@/base/lru-cache'
import { floatAt, numberAt } from '@/base/numbers'
import { srgbToWorking } from '@/colour/hex'
import { type Vector3, vector3 } from '@/colour/matrix'
import { fontKey, fonts } from '@/pixels/fonts'
import type { Asset } from '@/pixels/kept-file'
import { defineOperation } from '../declare/operation'
import { choice, colour, file, number, type SettingsOf, text, toggle } from '../declare/settings'
import { type Around, aroundSetting, boxAround, coverageAround, insetOf } from '../support/around'
import { fillOutlines, type PathCommand } from '../support/outline-fill'
import {
  describeLay,
  isBrightUnder,
  stampBlendSetting,
  stampChange,
  stampEffect,
  stampHandles,
  stampLay,
  stampPlace,
  stampPlaceSettings,
} from '../support/stamp'

const settings = {
  text: text({
    label: 'Text',
    maxCharacters: 200,
    default: '© {name}',
    help: 'One line. Fields in braces: {name} {title} {taken:yyyy} {camera} {iso} {keyword}; {title|name} takes the first that is not empty.',
  }),
  font: choice({
    label: 'Face',
    options: Object.entries(fonts).map(([value, label]) => ({ value, label })),
    default: 'instrument-sans-600',
    help: 'Faces that come with Copper Loop: the same everywhere.',
    shownWhen: { setting: 'ownFace', is: [''] },
  }),
  ownFace: file({
    label: 'Own face',
    holds: 'font',
    help: 'Set in this face instead. It is kept with the macro: the original may move or go.',
  }),
  ...stampPlaceSettings,
  sizePercent: number({
    label: 'Size',
    unit: '%',
    min: 0.5,
    max: 30,
    step: 0.1,
    default: 3,
    help: 'Height of the type, of the picture’s short edge. Lines that do not fit are set smaller.',
  }),
  blend: stampBlendSetting,
  opacityPercent: number({ label: 'Opacity', unit: '%', min: 0, max: 100, step: 1, default: 80, help: 'How much of the line shows.' }),
  tint: choice({
    label: 'Colour',
    options: [
      { value: 'given', label: 'One colour' },
      { value: 'ground', label: 'Light or dark' },
    ],
    default: 'ground',
    help: 'Light or dark: white on dark ground, black on bright, chosen for each picture.',
  }),
  colour: colour({ label: 'One colour', default: '#ffffff', help: 'Of the letters.', shownWhen: { setting: 'tint', is: ['given'] } }),
  outlinePercent: number({
    label: 'Outline',
    unit: '%',
    min: 0,
    max: 20,
    step: 1,
    default: 0,
    help: 'Width of an outline in the opposite tone, of the type’s height.',
  }),
  plate: toggle({ label: 'Plate', default: false, help: 'A ground behind the line, in the opposite tone.' }),
  around: aroundSetting,
}
type TextSettings = SettingsOf<typeof settings>

const parsed = memoised((asset: Extract<Asset, { kind: 'font' }>): Font => opentype.parse(asset.bytes))

/** Room around the letters, in heights of the type: the outline and the plate lie in it. */
const paddingShare = 0.35
/** From the baseline up and down, in heights of the type: room for accents and descenders. */
const above = 0.95
const below = 0.28
/** A plate lets some of the picture through. */
const plateOpacity = 0.55
/** Directions an outline is spread in. */
const outlineDirections = 16

function measured(
  font: Font,
  words: string,
  s: TextSettings,
  frame: Size,
): { readonly typePx: number; readonly box: Size; readonly bare: Size } {
  const short = Math.min(frame.width, frame.height)
  const lineAt = (typePx: number): Size => ({
    width: Math.max(1, Math.ceil(font.getAdvanceWidth(words, typePx) + 2 * paddingShare * typePx)),
    height: Math.max(1, Math.ceil((above + below + 2 * paddingShare) * typePx)),
  })
  const widthAt = (typePx: number): number =>
    s.around === 'nothing' ? font.getAdvanceWidth(words, typePx) + 2 * paddingShare * typePx : boxAround(s.around, lineAt(typePx)).width
  const wanted = (short * s.sizePercent) / 100
  const room = frame.width - (2 * short * s.marginPercent) / 100
  const typePx = Math.max(1, Math.min(wanted, (wanted * room) / widthAt(wanted)))
  return { typePx, box: boxAround(s.around, lineAt(typePx)), bare: lineAt(typePx) }
}

/** The largest coverage within a distance: letters made fatter. */
function spread(coverage: Float32Array, { width, height }: Size, distance: number): Float32Array {
  const result = Float32Array.from(coverage)
  for (let d = 0; d < outlineDirections; d++) {
    const angle = (2 * Math.PI * d) / outlineDirections
    for (const share of [0.5, 1]) {
      const [dx, dy] = [Math.round(Math.cos(angle) * distance * share), Math.round(Math.sin(angle) * distance * share)]
      for (let y = Math.max(0, -dy); y < Math.min(height, height - dy); y++)
        for (let x = Math.max(0, -dx); x < Math.min(width, width - dx); x++) {
          const at = (y + dy) * width + x + dx
          const value = floatAt(coverage, y * width + x)
          if (value > floatAt(result, at)) result[at] = value
        }
    }
  }
  return result
}

interface Line {
  readonly words: string
  readonly typePx: number
  readonly ink: Vector3
  readonly opposite: Vector3
  readonly outlineShare: number
  readonly plate: boolean
  readonly around: Around
  /** Of the line without what is around it, in full-size pixels. */
  readonly bare: Size
}

/** Letters over outline over plate: colour times alpha, and alpha. */
function drawLine(font: Font, size: Size, scale: number, drawn: Line): Float32Array {
  const { words, typePx, ink, opposite, outlineShare, plate, around, bare } = drawn
  const type = typePx * scale
  const line = { width: bare.width * scale, height: bare.height * scale }
  const inset = around === 'nothing' ? { x: 0, y: 0 } : insetOf(size, line)
  const path = font.getPath(words, inset.x + paddingShare * type, inset.y + (paddingShare + above) * type, type)
  const letters = fillOutlines(path.commands as readonly PathCommand[], size.width, size.height)
  const round = coverageAround(around, size, line)
  if (round) for (let i = 0; i < letters.length; i++) letters[i] = Math.max(floatAt(letters, i), floatAt(round, i))
  const outline = outlineShare > 0 ? spread(letters, size, Math.max(1, outlineShare * type)) : undefined
  const pixels = new Float32Array(size.width * size.height * 4)
  for (let i = 0; i < letters.length; i++) {
    const under = Math.max(plate ? plateOpacity : 0, outline?.[i] ?? 0)
    const over = floatAt(letters, i)
    const rest = under * (1 - over)
    for (const c of [0, 1, 2] as const) pixels[i * 4 + c] = ink[c] * over + opposite[c] * rest
    pixels[i * 4 + 3] = over + rest
  }
  return pixels
}

/** What assets call the face that is set in. */
const faceOf = (font: string, ownFace: string): string => (ownFace === '' ? fontKey(font) : ownFace)

const white: Vector3 = [1, 1, 1]
const black: Vector3 = [0, 0, 0]

export const stampText = defineOperation({
  id: 'stamp-text',
  name: 'Stamp text',
  group: 'finishing',
  purpose: 'Set a line of text (a watermark) on every picture, with its name, title or date.',
  settings,
  stamp: stampHandles,
  neutral: { opacityPercent: 0 },
  method:
    'Outlines of a shipped face (OpenType), filled by exact area coverage, composited over the picture in linear light (Porter & Duff 1984; multiply and screen: W3C Compositing and Blending).',
  files: ({ font, ownFace }) => (ownFace ? [] : [fontKey(String(font))]),
  resolve: (s, { size, copy, asset, caption }) => {
    const words = caption?.(s.text) ?? ''
    const face = words !== '' && s.opacityPercent > 0 ? asset?.(faceOf(s.font, s.ownFace)) : undefined
    if (face?.kind !== 'font')
      return {
        words,
        font: s.font,
        ownFace: s.ownFace,
        typePx: 0,
        ink: [...white],
        opposite: [...black],
        outline: 0,
        plate: false,
        around: s.around,
        bare: [],
        ...stampLay(s, undefined),
      }
    const { typePx, box, bare } = measured(parsed(face), words, s, size)
    const place = stampPlace(s, box, size)
    const picture = s.tint === 'ground' ? copy?.() : undefined
    const bright = picture !== undefined && isBrightUnder(picture, place, size, s.repeats)
    const ink = s.tint === 'given' ? srgbToWorking(s.colour) : bright ? black : white
    const isDark = ink.reduce((sum, value) => sum + value, 0) < 0.6
    return {
      words,
      font: s.font,
      ownFace: s.ownFace,
      typePx,
      ink: [...ink],
      opposite: [...(isDark ? white : black)],
      outline: s.outlinePercent / 100,
      plate: s.plate,
      around: s.around,
      bare: [bare.width, bare.height],
      ...stampLay(s, place),
    }
  },
  render: ({ words, font, ownFace, typePx, ink, opposite, outline, plate, around, bare, ...lay }, { size, asset }) => {
    const face = lay.place.length > 0 ? asset?.(faceOf(font, ownFace)) : undefined
    if (face?.kind !== 'font') return { kind: 'none' }
    const drawn: Line = {
      words,
      typePx,
      ink: vector3(ink),
      opposite: vector3(opposite),
      outlineShare: outline,
      plate,
      around,
      bare: { width: numberAt(bare, 0), height: numberAt(bare, 1) },
    }
    return stampEffect(lay, size, (to, scale) => drawLine(parsed(face), to, scale, drawn))
  },
  changeInWords: stampChange,
  describe: (s) =>
    `“${s.text}”, ${shortNumber(s.sizePercent, 1)} % of the short edge${describeLay(s)}, opacity ${plainNumber(s.opacityPercent)} %`,
  describeConstants: ({ words }) => (words === '' ? 'nothing to write for this picture' : `“${words}”`),
})
