import { plainNumber, shortNumber } from '@/base/format'
import { defineOperation, type PointPass } from '../declare/operation'
import { number, readAs, type SettingsOf } from '../declare/settings'
import { wholeCodes } from '../support/picked-codes'

type Channel = 'all' | 'red' | 'green' | 'blue'
const channels: readonly Channel[] = ['all', 'red', 'green', 'blue']
const groupNames: Record<Channel, string> = { all: 'All', red: 'Red', green: 'Green', blue: 'Blue' }

const declareChannel = <P extends string>(prefix: P, group: string) => {
  const code = (label: string, value: number, help: string) =>
    number({ label, unit: '', min: 0, max: 255, step: 1, default: value, help, group })
  const key = <S extends string>(suffix: S) => `${prefix}${suffix}` as const
  return {
    [key('Black')]: code('Black', 0, 'Input code that becomes black.'),
    [key('White')]: code('White', 255, 'Input code that becomes white.'),
    [key('Gamma')]: number({
      label: 'Gamma',
      unit: '',
      min: 0.1,
      max: 9.99,
      step: 0.01,
      default: 1,
      logarithmic: true,
      group,
      help: 'Above 1 brightens the middle, below 1 darkens it.',
    }),
    [key('OutBlack')]: code('Output black', 0, 'Code that black is lifted to.'),
    [key('OutWhite')]: code('Output white', 255, 'Code that white is lowered to.'),
  } as Record<`${P}${'Black' | 'White' | 'Gamma' | 'OutBlack' | 'OutWhite'}`, ReturnType<typeof number>>
}

const settings = {
  ...declareChannel('all', groupNames.all),
  ...declareChannel('red', groupNames.red),
  ...declareChannel('green', groupNames.green),
  ...declareChannel('blue', groupNames.blue),
}
type LevelsSettings = SettingsOf<typeof settings>
const read = readAs(settings)

/** Codes that are left between a picked black and a picked white. */
const minPickedSpan = 2

/** scale, offset, exponent, output scale, output offset: the order of the kernel's parameters. */
type ChannelMap = readonly [number, number, number, number, number]

/** Black and white that touch or cross would divide by nothing: they are held this many codes apart. */
const minSpan = 1

function channelMap(s: LevelsSettings, channel: Channel): ChannelMap {
  const black = s[`${channel}Black`]
  const span = Math.max(s[`${channel}White`] - black, minSpan)
  return [
    255 / span,
    // Adding 0 keeps a negative zero, which JSON would lose, out of the stored constants.
    -black / span + 0,
    1 / s[`${channel}Gamma`],
    (s[`${channel}OutWhite`] - s[`${channel}OutBlack`]) / 255,
    s[`${channel}OutBlack`] / 255,
  ]
}

const isNeutral = ([scale, offset, exponent, outScale, outOffset]: readonly number[]): boolean =>
  scale === 1 && offset === 0 && exponent === 1 && outScale === 1 && outOffset === 0

function describeChannel(s: LevelsSettings, channel: Channel): string {
  if (isNeutral(channelMap(s, channel))) return ''
  const parts = [`${plainNumber(s[`${channel}Black`])}–${plainNumber(s[`${channel}White`])}`]
  if (s[`${channel}Gamma`] !== 1) parts.push(`gamma ${shortNumber(s[`${channel}Gamma`])}`)
  const [outBlack, outWhite] = [s[`${channel}OutBlack`], s[`${channel}OutWhite`]]
  if (outBlack !== 0 || outWhite !== 255) parts.push(`to ${plainNumber(outBlack)}–${plainNumber(outWhite)}`)
  return `${channel === 'all' ? '' : `${channel} `}${parts.join(' ')}`
}

export const levels = defineOperation({
  id: 'levels',
  name: 'Levels',
  group: 'tone',
  purpose: 'Set where black and white lie and how bright the middle is, for all channels or one.',
  settings,
  beside: { kind: 'levels' },
  tools: [
    {
      tool: 'black',
      label: 'Pick black',
      help: 'Click the darkest part that should be black.',
      picked: (s, codes) => ({ ...s, allBlack: Math.min(...wholeCodes(codes), read(s).allWhite - minPickedSpan) }),
    },
    {
      tool: 'white',
      label: 'Pick white',
      help: 'Click the brightest part that should be white.',
      picked: (s, codes) => ({ ...s, allWhite: Math.max(...wholeCodes(codes), read(s).allBlack + minPickedSpan) }),
    },
  ],
  neutral: {},
  method: 'On sRGB-encoded values (IEC 61966-2-1): linear map of black–white to 0–1, power 1/gamma, linear map to the output range.',
  resolve: (s) => Object.fromEntries(channels.map((channel) => [channel, channelMap(s, channel)])) as Record<Channel, ChannelMap>,
  render: ({ all, red, green, blue }) => {
    const passes: PointPass[] = []
    if (!isNeutral(all)) passes.push({ kernel: 'levels', parameters: [...all, ...all, ...all] })
    if (![red, green, blue].every(isNeutral)) passes.push({ kernel: 'levels', parameters: [...red, ...green, ...blue] })
    return passes.length === 0 ? { kind: 'none' } : { kind: 'point', domain: 'encoded', passes }
  },
  describe: (s) =>
    channels
      .map((channel) => describeChannel(s, channel))
      .filter(Boolean)
      .join(', ') || '0–255',
})
