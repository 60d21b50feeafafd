import type { Kernels, PointKernelName } from '@kernels/binding'
import type { Planes } from '@kernels/planes'
import type { Rect, Size } from '@/base/geometry'
import type { CameraColour } from '@/colour/camera'
import type { Matrix3, Vector3 } from '@/colour/matrix'
import type { Asset } from '@/pixels/kept-file'
import type { LinearPicture } from '@/pixels/linear-picture'
import type { ResamplingKernelId } from '@/pixels/resampling'
import type { Constants } from './constants'
import type { Handles } from './handles'
import type { PlayedMacro, Settings, SettingsDeclaration, SettingsOf } from './settings'

/**
 * The coordinates a kernel works in. Linear: light, Rec. 2020 primaries. Encoded: the sRGB transfer on top. Opponent: brightness and
 * colour differences of encoded sRGB.
 */
export type Domain = 'linear' | 'encoded' | 'oklab' | 'opponent'

export const operationGroups = ['tone', 'colour', 'noise', 'sharpening', 'geometry', 'finishing', 'conversion'] as const
export type OperationGroup = (typeof operationGroups)[number]

export interface PatchOptions {
  /** Wherever they come to lie, as at first, instead of off the grid that JPEG leaves. */
  readonly onGrid?: boolean
}

/** What is known of the picture where a step stands: full-size pixels after the steps before it. */
export interface PictureAtStep {
  readonly size: Size
  /** A small copy of it to measure; absent where sizes alone are asked for. */
  copy?(): LinearPicture
  /** Pieces of it at full size, from fixed places: for what a reduced copy can't tell, such as noise. Absent like `look`. */
  patches?(options?: PatchOptions): readonly LinearPicture[]
  /** A file kept with the macro. Absent like `look`. @throws AppError `keptFileMissing` */
  asset?(value: string): Asset
  /** A line of text with the picture's own name, title and the like. Absent like `look`. */
  caption?(text: string): string
  /** A whole number that belongs to the picture's name, for whatever must look random and yet come out alike. */
  readonly seed?: number
  /** The source's, where it tells. */
  readonly iso?: number
  /** Whether the source is a raw file: scene light, not a rendered picture. */
  readonly isRaw?: boolean
  /** The sensor's colours, of a raw file whose sensor has three. */
  readonly raw?: CameraColour
}

export interface PointPass {
  readonly kernel: PointKernelName
  readonly parameters: readonly number[]
}

/** One tile of neighbourhood work. */
export interface NeighbourhoodJob {
  readonly kernels: Kernels
  /** Pixels per full-size pixel. */
  readonly scale: number
  /** The output tile with `reach` more on every side; pixels beyond the picture repeat its edge. */
  readonly input: Planes
  /** Nobody needs the input afterwards: it may be written to. */
  readonly mayOverwrite: boolean
  readonly output: Planes
  readonly reach: number
  /** Where the output tile lies in the picture, so that coarse grids can be laid at fixed places. */
  readonly x: number
  readonly y: number
  /** The whole picture's size, in the same pixels. */
  readonly frame: Size
}

/** What lies around a padded picture: one colour in linear working RGB, or a coarse picture of the whole new frame. */
export type Ground = { readonly kind: 'plain'; readonly colour: Vector3 } | { readonly kind: 'grid'; readonly grid: Grid }

/** A few planes laid over the whole picture, coarser than it: rows without gaps. */
export interface Grid {
  readonly size: Size
  readonly planes: readonly Float32Array[]
}

/** What a step does, with every constant known. Lengths and rectangles in full-size pixels. */
export type Effect =
  | { readonly kind: 'none' }
  | { readonly kind: 'point'; readonly domain: Domain; readonly passes: readonly PointPass[] }
  | {
      readonly kind: 'neighbourhood'
      readonly domain: Domain
      /** `apply` may be given one and the same planes as input and output. */
      readonly inPlace?: boolean
      /** It does the same to a colour wherever that stands. */
      readonly byColourAlone?: boolean
      /** Pixels needed on every side at the given scale. */
      reach(scale: number): number
      apply(job: NeighbourhoodJob): void
    }
  | { readonly kind: 'crop'; readonly rect: Rect }
  /** A clockwise turn, then mirroring. */
  | { readonly kind: 'turn'; readonly degrees: 0 | 90 | 180 | 270; readonly mirrorAcross: boolean; readonly mirrorDown: boolean }
  /** `held`: a reduction keeps within what it reduces, but for a few codes, so that nothing rings beside an edge. */
  | { readonly kind: 'resample'; readonly size: Size; readonly kernel: ResamplingKernelId; readonly held?: boolean }
  /** Resampled through a projective map: `toSource` takes full-size places of the new picture to those of the old one. */
  | { readonly kind: 'warp'; readonly size: Size; readonly toSource: Matrix3 }
  /** The picture laid on a larger ground. */
  | { readonly kind: 'pad'; readonly size: Size; readonly at: { readonly x: number; readonly y: number }; readonly ground: Ground }
  /** One after the other, as one step. */
  | { readonly kind: 'chain'; readonly effects: readonly Effect[] }

export type { Constants }

interface Declared<D extends SettingsDeclaration, C extends Constants> extends Handles {
  /** Part of the file format: never used again for something else. */
  readonly id: string
  /** What it was called in files of earlier versions. */
  readonly formerIds?: readonly string[]
  readonly name: string
  readonly group: OperationGroup
  /** One line: what it is for. */
  readonly purpose: string
  readonly settings: D
  /** Settings under which the picture passes unchanged to the bit. */
  readonly neutral: Partial<SettingsOf<D>>
  /** There are no settings that change nothing: a monochrome step always makes grey. */
  readonly changesAlways?: boolean
  /** How it is computed, and after which published source. */
  readonly method: string
  /** Looks at the picture once and turns settings into constants. */
  resolve(settings: SettingsOf<D>, picture: PictureAtStep): C
  /** The step of another operation that does to the size alone what this one does: for a picture of before, of the same size. */
  sizeAlone?(settings: Settings): { readonly operation: string; readonly settings: Settings }
  /** The macro it plays, if it plays one: the engine resolves and renders that one's steps in its place. */
  plays?(settings: SettingsOf<D>): PlayedMacro
  /** Settings as an earlier version wrote them, brought to what they are now. They have not been checked yet. */
  upgrade?(settings: Settings): Settings
  /** Whether it cuts or fills a shape of its own under these settings, whichever way the picture lies. */
  holdsShape?(settings: Settings): boolean
  /** Files it needs besides those its settings name: faces that ship with the application. */
  files?(settings: Settings): readonly string[]
  /** What it begins with on a raw file, where that depends on how the file was taken. */
  startOnRaw?(raw: CameraColour): Settings
  /** It means the light on the sensor: laid before the step that makes a picture of that. */
  readonly onSensor?: boolean
  /** The numbers that a setting of the kind `measured` takes from the picture before the step. */
  measure?(picture: LinearPicture): readonly number[]
  /** It looks at all pictures of a set before any is worked on: what `measure` gives of each, put together, becomes the value of a setting. */
  ofSet?: {
    readonly setting: string
    isWanted(settings: Settings): boolean
    /** @param pictures at least one */
    together(pictures: readonly (readonly number[])[]): readonly number[]
  }
  /** What the constants do. Coarse grids that follow from them and from a look at the picture are made here: too large to store. */
  render(constants: C, picture: PictureAtStep): Effect
  /** The setting in words, for beads and reports: `+0.35 EV`. */
  describe(settings: SettingsOf<D>): string
  /**
   * What one picture has otherwise, as people say it: `0.33 EV darker`, `frame 4 % higher`. Absent, or nothing, where the settings say it best.
   * @param from the macro's settings; undefined where the step is the picture's own
   */
  changeInWords?(to: Settings, from: Settings | undefined): string | undefined
  /** What `resolve` found, in words; nothing where the settings say it all. */
  describeConstants?(constants: C): string
}

/** An operation of the catalogue. Settings have passed its validation before they get here. */
export interface Operation
  extends Omit<Declared<SettingsDeclaration, Constants>, 'neutral' | 'plays' | 'resolve' | 'render' | 'describe' | 'describeConstants'> {
  readonly neutral: Settings
  plays?(settings: Settings): PlayedMacro
  resolve(settings: Settings, picture: PictureAtStep): Constants
  render(constants: Constants, picture: PictureAtStep): Effect
  describe(settings: Settings): string
  describeConstants?(constants: Constants): string
}

/** Declares an operation with its own settings type; the catalogue then holds all of them alike. */
export function defineOperation<D extends SettingsDeclaration, C extends Constants>(declared: Declared<D, C>): Operation {
  return declared as unknown as Operation
}
