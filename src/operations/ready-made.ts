import { mapTriple } from '@/base/tuples'
import { srgbTransfer } from '@/colour/transfer'
import { exposure } from './catalogue/exposure'
import { lookTable } from './catalogue/look-table'
import { playMacro } from './catalogue/play-macro'
import { resize } from './catalogue/resize'
import { straighten } from './catalogue/straighten'
import { unsharpMask } from './catalogue/unsharp-mask'
import { neutralTemperatureK, whiteBalance } from './catalogue/white-balance'
import type { PlayedMacro, Settings } from './declare/settings'
import { wholeCodes } from './support/picked-codes'

/** An operation with settings that differ from its defaults. */
export interface ReadyMade {
  readonly operation: string
  readonly settings: Settings
}

/* Steps that the application makes by itself: whoever needs one asks here, and knows neither ids nor settings. */

export const toLongEdge = (lengthPx: number): ReadyMade => ({ operation: resize.id, settings: { by: 'longEdge', lengthPx } })

/** Sharpening of a finished, reduced picture. At 100 % what a careful retoucher gives a picture on a screen (common practice). */
export const sharpenedBy = (percent: number): ReadyMade => ({
  operation: unsharpMask.id,
  settings: { amountPercent: percent * 2, radiusPx: 0.6, thresholdLevels: 2 },
})

/** A look, by the value of its kept file. */
export const withLook = (file: string): ReadyMade => ({ operation: lookTable.id, settings: { file } })

export const playing = (macro: PlayedMacro): ReadyMade => ({ operation: playMacro.id, settings: { macro } })

/** More or less light on the finished picture, in stops. */
export const lighter = (exposureEv: number): ReadyMade => ({ operation: exposure.id, settings: { exposureEv } })
export const stopsOf = (settings: Settings): number => Number(settings.exposureEv ?? 0)

const millionKelvin = 1e6
/** A warmer (above 0) or cooler picture, in mired, of which equal steps look alike (common practice with filters); from −250 to 100. */
export const warmer = (mired: number): ReadyMade => ({
  operation: whiteBalance.id,
  settings: { by: 'temperature', temperatureK: Math.round(millionKelvin / (millionKelvin / neutralTemperatureK - mired)) },
})
/** What `warmer` was asked for, to a tenth of a mired. */
export function miredOf({ temperatureK = neutralTemperatureK }: Settings): number {
  return Math.round((millionKelvin / neutralTemperatureK - millionKelvin / Number(temperatureK)) * 10) / 10
}

/** More light, in stops, and another colour of it, in logarithms to the base of 2 of red and blue over green: nothing for what is 0. */
export function relit({ ev, red, blue }: { readonly ev: number; readonly red: number; readonly blue: number }): ReadyMade[] {
  // The colour that becomes grey has the opposite cast.
  const grey = mapTriple([2 ** -red, 1, 2 ** -blue], (light) => light / Math.max(2 ** -red, 1, 2 ** -blue))
  const [pickedRed, pickedGreen, pickedBlue] = wholeCodes(mapTriple(grey, (light) => 220 * srgbTransfer.encode(light)))
  const hundredth = Math.round(ev * 100) / 100
  return [
    ...(hundredth === 0 ? [] : [lighter(hundredth)]),
    ...(red === 0 && blue === 0 ? [] : [{ operation: whiteBalance.id, settings: { by: 'picked', pickedRed, pickedGreen, pickedBlue } }]),
  ]
}

/** Turned clockwise by so many degrees. */
export const turnedBy = (angleDegrees: number): ReadyMade => ({ operation: straighten.id, settings: { by: 'angle', angleDegrees } })
