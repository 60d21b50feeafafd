import type { Size } from '@/base/geometry'
import type { RenderedView } from '../worker/protocol'

/** A place in the finished picture, in per cent of its width and height. */
export interface Place {
  readonly xPercent: number
  readonly yPercent: number
}

/** Between places in the picture and places on the page, whatever part of the picture is shown. */
export interface Mapping {
  /** Size of the shown part on the page. */
  readonly shown: Size
  /** Page pixels for one full-size pixel. */
  readonly scale: number
  readonly fullSize: Size
  toPage(place: Place): { readonly x: number; readonly y: number }
  /** `x`, `y`: page pixels from the shown part's upper left corner. */
  toPlace(x: number, y: number): Place
}

export function mappingOf({ rect, fullSize }: Pick<RenderedView, 'rect' | 'fullSize'>, shown: Size): Mapping {
  const scale = shown.width / rect.width
  return {
    shown,
    scale,
    fullSize,
    toPage: ({ xPercent, yPercent }) => ({
      x: ((xPercent / 100) * fullSize.width - rect.x) * scale,
      y: ((yPercent / 100) * fullSize.height - rect.y) * scale,
    }),
    toPlace: (x, y) => ({
      xPercent: ((x / scale + rect.x) / fullSize.width) * 100,
      yPercent: ((y / scale + rect.y) / fullSize.height) * 100,
    }),
  }
}

export const half = (value: number): number => Math.round(value * 2) / 2
