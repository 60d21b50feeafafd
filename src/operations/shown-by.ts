import type { Settings } from './declare/settings'

/*
 * Settings by which a small picture tells what an operation does, by id: more of it than one would take. Those that are judged at 100 %,
 * that need a file, or that change nothing one could see have none.
 */

const curveShown: readonly (readonly [number, number])[] = [
  [0, 0],
  [64, 34],
  [192, 226],
  [255, 255],
]

export const shownBy: Readonly<Record<string, Settings>> = {
  exposure: { exposureEv: 0.8 },
  levels: { allBlack: 30, allWhite: 215 },
  'full-range': { boldPercent: 90 },
  curve: { all: curveShown },
  'brightness-contrast': { contrastPercent: 55 },
  'tone-bands': { deepEv: 1, shadowsEv: 1.4, lightsEv: -0.8, peaksEv: -1 },
  haze: { amountPercent: 80 },
  'equalise-locally': { limit: 4 },
  falloff: { cornersEv: -2 },
  grain: { amountPercent: 100, sizePx: 8 },
  'white-balance': { temperatureK: 4300 },
  saturation: { saturationPercent: 80 },
  vibrance: { vibrancePercent: 100 },
  'hue-bands': { redHueDegrees: 45, orangeHueDegrees: 45, yellowHueDegrees: 45, blueHueDegrees: 45, turquoiseHueDegrees: 45 },
  'channel-mixer': { redFromRedPercent: 40, redFromBluePercent: 60, blueFromBluePercent: 40, blueFromRedPercent: 60 },
  monochrome: {},
  'split-tint': { shadowsPercent: 60, highlightsPercent: 60 },
  'smooth-areas': { amountPercent: 100, radiusPx: 60, detailPercent: 0 },
  crop: { ratioWidth: 1, ratioHeight: 1, sizePercent: 70 },
  straighten: { by: 'angle', angleDegrees: 8 },
  perspective: { verticalPercent: 60 },
  'turn-mirror': { turn: 'right' },
  pad: { borderPercent: 10 },
  'stamp-text': { text: '© 2026', sizePercent: 16, opacityPercent: 100, plate: true },
}
