import { invert } from '@/colour/matrix'
import { type ColourSpaceId, colourSpaces, rgbToRgb, workingSpace } from '@/colour/spaces'
import { defineOperation } from '../declare/operation'
import { choice } from '../declare/settings'
import { gamutPass } from '../support/domains'

export const colourSpace = defineOperation({
  id: 'colour-space',
  name: 'Colour space',
  group: 'conversion',
  purpose: 'Hold colours to what a space can show, from this step on. Deliveries convert by themselves.',
  settings: {
    space: choice({
      label: 'Space',
      options: Object.values(colourSpaces).map(({ id, name }) => ({ value: id, label: name })),
      default: 'srgb' satisfies ColourSpaceId,
      help: 'Colours outside it are brought inside.',
    }),
    gamut: choice({
      label: 'Outside',
      options: [
        { value: 'hue', label: 'Along their hue' },
        { value: 'clip', label: 'Cut off' },
      ],
      default: 'hue',
      help: 'Along their hue keeps drawing in strong colours; cutting off keeps them brightest.',
    }),
  },
  neutral: {},
  changesAlways: true,
  method: 'Linear RGB of the space; colours outside pulled in along OKLab hue (Ottosson 2021) or held to 0–1 channel by channel; back.',
  resolve: (s) => ({ space: s.space, gamut: s.gamut }),
  render: ({ space, gamut }) => {
    const toTarget = rgbToRgb(workingSpace, colourSpaces[space as ColourSpaceId])
    return {
      kind: 'point',
      domain: 'linear',
      passes: [
        { kernel: 'matrix', parameters: [...toTarget] },
        gamut === 'hue' ? gamutPass(toTarget) : { kernel: 'holdRange', parameters: [0, 1] },
        { kernel: 'matrix', parameters: [...invert(toTarget)] },
      ],
    }
  },
  describe: (s) => `${colourSpaces[s.space as ColourSpaceId].name}, ${s.gamut === 'hue' ? 'along the hue' : 'cut off'}`,
})
