import { plainNumber, signedNumber } from '@/base/format'
import { defineOperation } from '../declare/operation'
import { number, type SettingsOf, toggle } from '../declare/settings'

type Channel = 'red' | 'green' | 'blue'
const channels: readonly Channel[] = ['red', 'green', 'blue']
const names: Record<Channel, string> = { red: 'Red', green: 'Green', blue: 'Blue' }

const share = (from: Channel, to: Channel) =>
  number({
    label: `From ${from}`,
    unit: '%',
    min: -200,
    max: 200,
    step: 1,
    default: from === to ? 100 : 0,
    group: names[to],
    help: `How much of the ${from} light goes into ${to}.`,
  })
const offset = (to: Channel) =>
  number({
    label: 'Offset',
    unit: '%',
    min: -50,
    max: 50,
    step: 0.1,
    default: 0,
    group: names[to],
    help: `Light added to ${to} everywhere.`,
  })

const settings = {
  redFromRedPercent: share('red', 'red'),
  redFromGreenPercent: share('green', 'red'),
  redFromBluePercent: share('blue', 'red'),
  redOffsetPercent: offset('red'),
  greenFromRedPercent: share('red', 'green'),
  greenFromGreenPercent: share('green', 'green'),
  greenFromBluePercent: share('blue', 'green'),
  greenOffsetPercent: offset('green'),
  blueFromRedPercent: share('red', 'blue'),
  blueFromGreenPercent: share('green', 'blue'),
  blueFromBluePercent: share('blue', 'blue'),
  blueOffsetPercent: offset('blue'),
  keepNeutrals: toggle({ label: 'Keep neutrals', default: true, help: 'Scales each row to a sum of 100 %, so that greys stay grey.' }),
}
type MixerSettings = SettingsOf<typeof settings>

/** Below this sum a row can't be scaled to one without blowing up. */
const minSum = 0.05

/** One row: shares of red, green, blue, and the offset. Adding 0 turns a negative zero, which JSON would lose, into zero. */
function mixerRow(s: MixerSettings, to: Channel): [number, number, number, number] {
  const [r, g, b] = [s[`${to}FromRedPercent`] / 100, s[`${to}FromGreenPercent`] / 100, s[`${to}FromBluePercent`] / 100]
  const sum = r + g + b
  const scale = s.keepNeutrals && Math.abs(sum) >= minSum ? 1 / sum : 1
  return [r * scale + 0, g * scale + 0, b * scale + 0, s[`${to}OffsetPercent`] / 100 + 0]
}

const same = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]

export const channelMixer = defineOperation({
  id: 'channel-mixer',
  name: 'Channel mixer',
  group: 'colour',
  purpose: 'Make each channel anew from shares of red, green and blue.',
  settings,
  neutral: {},
  method: 'A 3×3 matrix and offsets on linear light (working primaries); with neutrals kept, every row sums to one.',
  resolve: (s) => ({ rows: channels.flatMap((channel) => mixerRow(s, channel)) }),
  render: ({ rows }) =>
    rows.every((value, i) => value === same[i])
      ? { kind: 'none' }
      : { kind: 'point', domain: 'linear', passes: [{ kernel: 'affine', parameters: rows }] },
  describe: (s) => {
    const changed = channels.flatMap((to) => {
      const shares = [s[`${to}FromRedPercent`], s[`${to}FromGreenPercent`], s[`${to}FromBluePercent`]]
      const added = s[`${to}OffsetPercent`]
      const identity = shares.every((value, i) => value === (channels[i] === to ? 100 : 0)) && added === 0
      return identity
        ? []
        : [`${to} ${shares.map((value) => plainNumber(value)).join(' / ')}${added === 0 ? '' : ` ${signedNumber(added, 1)} %`}`]
    })
    return changed.join(', ') || 'no change'
  },
})
