import { counted } from '@/base/format'
import { defineOperation } from '../declare/operation'
import { playedMacro } from '../declare/settings'

export const playMacro = defineOperation({
  id: 'play-macro',
  name: 'Play a macro',
  group: 'finishing',
  purpose: 'Play a macro from the shelf as one step: what several macros share.',
  settings: {
    macro: playedMacro({
      label: 'Macro',
      help: 'The revision that is played. It is kept inside this macro whole, so changes on the shelf reach it only when you take them.',
    }),
  },
  neutral: {},
  method:
    'Its steps are resolved and rendered in place, one after the other, each with its own strength, limit and conditions, and with those of this step besides. A revision is held by value, so no macro can hold itself.',
  plays: ({ macro }) => macro,
  resolve: () => ({}),
  render: () => ({ kind: 'none' }),
  describe: ({ macro }) =>
    macro.revision === 0 ? 'none chosen' : `${macro.name} r${macro.revision}, ${counted(macro.steps.length, 'step')}`,
})
