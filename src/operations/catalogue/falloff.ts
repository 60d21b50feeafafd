import { plainNumber, signedNumber } from '@/base/format'
import { defineOperation } from '../declare/operation'
import { number, renamed } from '../declare/settings'
import { byPosition } from '../support/grid'

export const falloff = defineOperation({
  id: 'falloff',
  name: 'Falloff',
  group: 'tone',
  purpose: 'Darken or brighten towards the corners: lead the eye, or undo a lens’s own falloff.',
  settings: {
    cornersEv: number({
      label: 'Corners',
      unit: 'EV',
      min: -3,
      max: 3,
      step: 0.05,
      default: -0.6,
      help: 'Light added or taken in the very corners.',
    }),
    beginsPercent: number({
      label: 'Begins at',
      unit: '%',
      min: 0,
      max: 95,
      step: 1,
      default: 35,
      help: 'How far from the centre it begins, on the way to the corner.',
    }),
    circularPercent: number({
      label: 'Towards a circle',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 50,
      help: '0 % follows the shape of the picture, 100 % is a circle, as a lens makes it.',
    }),
  },
  upgrade: (old) => renamed(old, { midpointPercent: 'beginsPercent', roundnessPercent: 'circularPercent' }),
  neutral: { cornersEv: 0 },
  method: 'Linear light times 2^(EV × s), s a smooth step (3t² − 2t³) of the distance from the centre, 1 in the corners.',
  resolve: (s) => ({ corners: s.cornersEv, inner: s.beginsPercent / 100, circular: s.circularPercent / 100 }),
  render: ({ corners, inner, circular }) =>
    corners === 0
      ? { kind: 'none' }
      : byPosition('linear', ({ kernels, frame, x, y }, pixels) => {
          const half = Math.hypot(frame.width, frame.height) / 2
          // Half-axes of the ellipse through the corners, between the frame's own shape and a circle.
          const axis = (side: number): number => (side / Math.SQRT2) * (1 - circular) + half * circular
          const [across, down] = [axis(frame.width), axis(frame.height)]
          const corner = Math.hypot(frame.width / 2 / across, frame.height / 2 / down)
          const parameters = [frame.width / 2, frame.height / 2, 1 / across / corner, 1 / down / corner, inner, 1 / (1 - inner), corners]
          const [r, g, b] = pixels.channels
          kernels.run.radialGain(r, g, b, pixels.stride, pixels.width, pixels.height, x, y, kernels.heap.floats(parameters))
        }),
  describe: (s) =>
    `corners ${signedNumber(s.cornersEv, 2)} EV from ${plainNumber(s.beginsPercent)} %, ${plainNumber(s.circularPercent)} % circular`,
})
