import { shortNumber } from '@/base/format'
import { choice, number, type ShownWhen, toggle } from '../declare/settings'

/*
 * Settings that several operations have which lay something over the picture or shape it: ratios of sides, sizes on paper, places.
 */

export const ratioSettings = (start: readonly [number, number], shownWhen: ShownWhen) => {
  const side = (label: string, which: string, value: number) =>
    number({
      typed: true,
      label,
      unit: '',
      min: 0.1,
      max: 100,
      step: 0.1,
      default: value,
      help: `${which} number of a ratio like 3 : 2.`,
      shownWhen,
    })
  return { ratioWidth: side('Ratio, long side', 'First', start[0]), ratioHeight: side('Ratio, short side', 'Second', start[1]) }
}

/** Where something lies in the room that is free. */
export const positionSettings = (start: number, shownWhen: ShownWhen) => {
  const side = (label: string, edge: string) =>
    number({
      label,
      unit: '%',
      min: 0,
      max: 100,
      step: 0.1,
      default: start,
      help: `0 % is the ${edge} edge, 50 % the middle.`,
      shownWhen,
    })
  return { positionXPercent: side('Across', 'left'), positionYPercent: side('Down', 'upper') }
}

/** Such a place in words. */
export function describePosition(across: number, down: number): string {
  const name = (value: number, low: string, high: string): string => (value <= 0 ? low : value >= 100 ? high : '')
  if (![0, 50, 100].includes(across) || ![0, 50, 100].includes(down)) return `at ${shortNumber(across, 1)} % / ${shortNumber(down, 1)} %`
  return [name(down, 'top', 'bottom'), name(across, 'left', 'right')].filter(Boolean).join(' ') || 'centred'
}

export const turnsSetting = (shownWhen: ShownWhen) =>
  toggle({
    label: 'Turns with the picture',
    default: true,
    help: 'For a portrait picture the two sides change places, so that one step serves both.',
    shownWhen,
  })

export const printSettings = (shownWhen: ShownWhen) => ({
  printUnit: choice({
    label: 'Unit',
    options: [
      { value: 'cm', label: 'cm' },
      { value: 'inch', label: 'inch' },
    ],
    default: 'cm',
    help: 'Of the printed sides.',
    shownWhen,
  }),
  printDpi: number({
    typed: true,
    label: 'Resolution',
    unit: 'dpi',
    min: 30,
    max: 2400,
    step: 1,
    default: 300,
    help: 'Pixels an inch.',
    shownWhen,
  }),
})

const cmPerInch = 2.54

/** Pixels for each unit of the print. */
export const pixelsPerUnit = ({ printUnit, printDpi }: { readonly printUnit: 'cm' | 'inch'; readonly printDpi: number }): number =>
  printUnit === 'cm' ? printDpi / cmPerInch : printDpi
