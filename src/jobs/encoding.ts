import * as yup from 'yup'
import { keysOf, oneOf, type Shape } from '@/base/schema'
import { colourSpaces, type OutputSpaceId } from '@/colour/spaces'

export type EncodingFormat = 'jpeg' | 'png' | 'tiff' | 'webp' | 'avif'

/** What a file format can do. */
export interface FormatAbilities {
  readonly label: string
  readonly extension: string
  /** Loses detail for size: has a quality, and can be held to a size. */
  readonly hasQuality: boolean
  readonly has16Bits: boolean
  readonly hasProgressive: boolean
  /** Can be seen through; the others get white behind. */
  readonly hasOpacity: boolean
  /** Longest side in pixels. */
  readonly maxPx: number
}

/** Limits: ITU-T T.81 (16-bit sizes), ISO/IEC 15948, TIFF 6.0 by libvips, RFC 9649 (WebP, 14 bits), libheif's default for AVIF. */
export const formats: Readonly<Record<EncodingFormat, FormatAbilities>> = {
  jpeg: { label: 'JPEG', extension: 'jpg', hasQuality: true, has16Bits: false, hasProgressive: true, hasOpacity: false, maxPx: 65500 },
  png: { label: 'PNG', extension: 'png', hasQuality: false, has16Bits: true, hasProgressive: false, hasOpacity: true, maxPx: 1_000_000 },
  tiff: { label: 'TIFF', extension: 'tif', hasQuality: false, has16Bits: true, hasProgressive: false, hasOpacity: true, maxPx: 1_000_000 },
  webp: { label: 'WebP', extension: 'webp', hasQuality: true, has16Bits: false, hasProgressive: false, hasOpacity: true, maxPx: 16383 },
  avif: { label: 'AVIF', extension: 'avif', hasQuality: true, has16Bits: false, hasProgressive: false, hasOpacity: true, maxPx: 16384 },
}

/** The settings that say how finished pixels become a file. Those that a format lacks are ignored. */
export const encodingFields = {
  format: oneOf(keysOf(formats)).default('jpeg'),
  /** 1–100. With `mostKb`, the highest that is tried. */
  qualityPercent: yup.number().integer().min(1).max(100).required().default(88),
  /** Whether colour is stored at full or half resolution. */
  chroma: oneOf(['4:4:4', '4:2:0']).default('4:4:4'),
  progressive: yup.boolean().required().default(false),
  /** Of JPEG: takes several times as long for a file that is a little smaller and looks the same. */
  smallest: yup.boolean().required().default(false),
  /** The file may be no larger than this many thousand bytes: the highest quality that fits is taken, where none does with colour at half resolution. Null: any size. */
  mostKb: yup.number().integer().min(1).max(1_000_000).nullable().defined().default(null),
  bits: yup.number<8 | 16>().oneOf([8, 16]).required().default(8),
  /** Of TIFF. None loses anything. */
  compression: oneOf(['none', 'lzw', 'deflate']).default('deflate'),
  space: oneOf<OutputSpaceId>([...keysOf(colourSpaces), 'grey']).default('srgb'),
  /** Colours that the space lacks: pulled in along their hue, or cut off channel by channel. */
  gamut: oneOf(['hue', 'clip']).default('hue'),
  /** Rounds to 8 bits by place, so that gradients do not band. */
  dither: yup.boolean().required().default(true),
  /** Print size written into the file; the pixels do not change. Null: none. */
  dpi: yup.number().min(1).max(10_000).nullable().defined().default(null),
} as const

const encodingSchema = yup.object(encodingFields)

/** How finished pixels become a file. */
export type Encoding = Shape<typeof encodingSchema>

export const defaultEncoding: Encoding = encodingSchema.getDefault()

/** 16 where it is wanted and the format has it. */
export const bitsOf = ({ format, bits }: Encoding): 8 | 16 => (formats[format].has16Bits ? bits : 8)
