import type { Rect, Size } from '@/base/geometry'
import type { Vector3 } from '@/colour/matrix'
import type { Constants } from './constants'
import type { Settings } from './settings'

/*
 * How a step can be set by more than its form. An operation declares it; the bench has a component for each, and knows no
 * operation by its id.
 */

/** What is clicked, drawn or laid on the picture. */
export type ToolKind = 'grey' | 'black' | 'white' | 'horizon' | 'corners'

interface ToolWords {
  /** On its button. */
  readonly label: string
  readonly help: string
}

export type StepTool =
  /** A colour is picked, as 8-bit codes of sRGB. */
  | (ToolWords & { readonly tool: 'grey' | 'black' | 'white'; picked(settings: Settings, codes: Vector3): Settings })
  /** A line is drawn that should be level or upright: the angle, in degrees, by which it is off. */
  | (ToolWords & { readonly tool: 'horizon'; drawn(settings: Settings, angleDegrees: number): Settings })
  /** Four corners are laid: settings `topLeftXPercent` and so on. */
  | (ToolWords & { readonly tool: 'corners' })

export type FrameGrip = 'move' | 'nw' | 'ne' | 'sw' | 'se'

/** A step as it was resolved for a picture. */
export interface Standing {
  readonly constants: Constants
  /** Full-size pixels of the picture before it. */
  readonly sizeBefore: Size
}

/** A picture turned so that it is level. */
export interface LevelHandles {
  /** By how many degrees it is turned clockwise; where the step measures that itself, what it found. */
  angle(settings: Settings, standing?: Standing): number
  /** Settings that turn it by so many degrees. */
  turned(settings: Settings, degrees: number): Settings
}

/** A frame drawn on the picture before the step. */
export interface FrameHandles {
  rect(settings: Settings, picture: Size): Rect
  /** Settings after a grip was dragged, by a distance in full-size pixels. */
  dragged(settings: Settings, grip: FrameGrip, picture: Size, by: { readonly dx: number; readonly dy: number }): Settings
  /**
   * Moved across and down, in per cent of the room that the frame has, whatever the picture.
   * @param standing where a frame begins that the step places by itself
   */
  moved(settings: Settings, acrossPercent: number, downPercent: number, standing?: Standing): Settings
  /** Its size in per cent of the largest that fits; undefined where something else decides it. */
  size(settings: Settings): number | undefined
  /** Made larger (above 0) or smaller, in per cent of the largest that fits; the same where something else decides its size. */
  resized(settings: Settings, byPercent: number): Settings
}

/** A mark laid at one place of the picture. */
export interface StampHandles {
  /** Whether it has one place: a mark that repeats has none. */
  isPlaced(settings: Settings): boolean
  /** Its place in per cent of the room that it has, across and down. */
  place(settings: Settings): readonly [across: number, down: number]
  /** Laid elsewhere, in per cent of the room that it has. */
  laid(settings: Settings, across: number, down: number): Settings
  /**
   * Pulled along, by full-size pixels.
   * @param box where it lies: x, y, width, height in full-size pixels of the picture
   */
  pulled(settings: Settings, box: readonly number[], picture: Size, by: { readonly dx: number; readonly dy: number }): Settings
}

/** Beside the form: on the histogram, or above the settings. */
export type DeskPart =
  /** Black, white and gamma under the histogram, by the settings `allBlack`, `redBlack` and so on. */
  | { readonly kind: 'levels' }
  /** Usual ratios, one click each: settings `ratioWidth` and `ratioHeight`. */
  | { readonly kind: 'ratios'; isShown(settings: Settings): boolean }
  /** Bands around a ring of hues: settings `redHueDegrees`, `redChromaPercent`, `redLightnessPercent`, `redCentreDegrees`. */
  | { readonly kind: 'hueRing'; readonly bands: readonly string[] }
  /** Bands over a scale of lightness, each lifted or lowered by its setting. */
  | {
      readonly kind: 'toneScale'
      readonly bands: readonly { readonly name: string; readonly setting: string; readonly lightness: number }[]
      /** Stops at a lightness, 0–1. */
      stopsAt(settings: Settings, lightness: number): number
    }

/** All of it that an operation may declare. */
export interface Handles {
  readonly tools?: readonly StepTool[]
  readonly frame?: FrameHandles
  readonly level?: LevelHandles
  readonly beside?: DeskPart
  /** It lays a mark, which a delivery may leave out. */
  readonly stamp?: StampHandles
}
