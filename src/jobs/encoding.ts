import type { OutputSpaceId } from '@/colour/spaces'

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
  readonly mostPx: number
}

/** Limits: ITU-T T.81 (16-bit sizes), ISO/IEC 15948, TIFF 6.0 by libvips, RFC 9649 (WebP, 14 bits), libheif's default for AVIF. */
export const formats: Readonly<Record<EncodingFormat, FormatAbilities>> = {
  jpeg: { label: 'JPEG', extension: 'jpg', hasQuality: true, has16Bits: false, hasProgressive: true, hasOpacity: false, mostPx: 65500 },
  png: { label: 'PNG', extension: 'png', hasQuality: false, has16Bits: true, hasProgressive: false, hasOpacity: true, mostPx: 1_000_000 },
  tiff: { label: 'TIFF', extension: 'tif', hasQuality: false, has16Bits: true, hasProgressive: false, hasOpacity: true, mostPx: 1_000_000 },
  webp: { label: 'WebP', extension: 'webp', hasQuality: true, has16Bits: false, hasProgressive: false, hasOpacity: true, mostPx: 16383 },
  avif: { label: 'AVIF', extension: 'avif', hasQuality: true, has16Bits: false, hasProgressive: false, hasOpacity: true, mostPx: 16384 },
}

/** How finished pixels become a file. Settings that a format lacks are ignored. */
export interface Encoding {
  readonly format: EncodingFormat
  /** 1–100. With `mostKb`, the highest that is tried. */
  readonly qualityPercent: number
  /** Whether colour is stored at full or half resolution. */
  readonly chroma: '4:4:4' | '4:2:0'
  readonly progressive: boolean
  /** The file may be no larger than this many thousand bytes: the highest quality that fits is taken. Null: any size. */
  readonly mostKb: number | null
  readonly bits: 8 | 16
  /** Of TIFF. None loses anything. */
  readonly compression: 'none' | 'lzw' | 'deflate'
  readonly space: OutputSpaceId
  /** Colours that the space lacks: pulled in along their hue, or cut off channel by channel. */
  readonly gamut: 'hue' | 'clip'
  /** Rounds to 8 bits by place, so that gradients do not band. */
  readonly dither: boolean
  /** Print size written into the file; the pixels do not change. Null: none. */
  readonly dpi: number | null
}

export const defaultEncoding: Encoding = {
  format: 'jpeg',
  qualityPercent: 88,
  chroma: '4:4:4',
  progressive: false,
  mostKb: null,
  bits: 8,
  compression: 'deflate',
  space: 'srgb',
  gamut: 'hue',
  dither: true,
  dpi: null,
}

/** 16 where it is wanted and the format has it. */
export const bitsOf = ({ format, bits }: Encoding): 8 | 16 => (formats[format].has16Bits ? bits : 8)
