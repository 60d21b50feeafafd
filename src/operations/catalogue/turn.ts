import { defineOperation } from '../declare/operation'
import { choice, toggle } from '../declare/settings'

const turns = { none: 0, right: 90, half: 180, left: 270 } as const
type Turn = keyof typeof turns

export const turn = defineOperation({
  id: 'turn-mirror',
  name: 'Turn & mirror',
  group: 'geometry',
  purpose: 'Quarter turns and mirroring, pixel for pixel.',
  settings: {
    turn: choice<Turn>({
      label: 'Turn',
      options: [
        { value: 'none', label: 'Not at all' },
        { value: 'right', label: 'Right, 90°' },
        { value: 'half', label: 'Half, 180°' },
        { value: 'left', label: 'Left, 90°' },
      ],
      default: 'none',
      help: 'Clockwise or counter-clockwise. What the camera’s orientation says is applied before.',
    }),
    mirrorAcross: toggle({ label: 'Mirror left and right', default: false, help: 'After the turn.' }),
    mirrorDown: toggle({ label: 'Mirror top and bottom', default: false, help: 'After the turn.' }),
  },
  neutral: {},
  method: 'Pixels change places; none is computed anew.',
  resolve: (s) => ({ degrees: turns[s.turn], mirrorAcross: s.mirrorAcross, mirrorDown: s.mirrorDown }),
  render: ({ degrees, mirrorAcross, mirrorDown }) =>
    degrees === 0 && !mirrorAcross && !mirrorDown
      ? { kind: 'none' }
      : { kind: 'turn', degrees: degrees as 0 | 90 | 180 | 270, mirrorAcross, mirrorDown },
  describe: (s) => {
    const parts = [
      { none: '', right: '90° right', half: '180°', left: '90° left' }[s.turn],
      s.mirrorAcross ? 'mirrored' : '',
      s.mirrorDown ? 'upside down' : '',
    ]
    return parts.filter(Boolean).join(', ') || 'no change'
  },
})
