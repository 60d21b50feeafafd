import { memoised } from '@/base/lru-cache'
import { floatAt } from '@/base/numbers'
import { mapTriple } from '@/base/tuples'
import type { LookTable } from '@/colour/cube'
import { invert } from '@/colour/matrix'
import { colourSpaces, rgbToRgb, workingSpace } from '@/colour/spaces'
import { keptFileName } from '@/pixels/kept-file'
import { defineOperation } from '../declare/operation'
import { choice, file, number } from '../declare/settings'
import { conversion } from '../support/domains'
import { byPosition } from '../support/grid'

/** Spaces with the transfer of sRGB: what looks for finished pictures are made for (common practice). */
const spaces = ['srgb', 'display-p3'] as const

/** Entries as vectors of four. */
const vectorsOf = memoised(({ size, values }: LookTable): Float32Array => {
  const vectors = new Float32Array(size ** 3 * 4)
  for (let i = 0; i < size ** 3; i++) vectors.set(values.subarray(i * 3, i * 3 + 3), i * 4)
  return vectors
})

/** A 1D table's channel at a place 0–1, linearly between entries. */
function entryAt({ size, values }: LookTable, channel: number, x: number): number {
  const place = Math.min(1, Math.max(0, x)) * (size - 1)
  const index = Math.min(Math.floor(place), size - 2)
  const [low, high] = [floatAt(values, index * 3 + channel), floatAt(values, (index + 1) * 3 + channel)]
  return low + (high - low) * (place - index)
}

/** Slopes beyond the ends and 2049 entries for a channel of a 1D table: what the curve kernel reads. */
const curvesOf = memoised((look: LookTable): number[] => {
  const spans = 2048
  return [0, 1, 2].flatMap((channel) => {
    const entries = Array.from({ length: spans + 1 }, (_, i) => entryAt(look, channel, i / spans))
    return [1, 1, ...entries]
  })
})

export const lookTable = defineOperation({
  id: 'look-table',
  name: 'Look table',
  group: 'colour',
  purpose: 'Give the picture a look from a .cube file, kept with the macro.',
  settings: {
    file: file({ label: 'File', holds: 'look', help: 'A 1D or 3D .cube file. It is kept with the macro: the original may move or go.' }),
    space: choice({
      label: 'Made for',
      options: spaces.map((id) => ({ value: id, label: colourSpaces[id].name })),
      default: 'srgb',
      help: 'The colour space whose values the table takes and gives.',
    }),
    amountPercent: number({
      label: 'Amount',
      unit: '%',
      min: 0,
      max: 100,
      step: 1,
      default: 100,
      help: 'How much of the look is mixed in.',
    }),
  },
  neutral: { amountPercent: 0 },
  method:
    'Tetrahedral interpolation in the table (Kasson et al. 1995), on encoded values of the space it is made for; mixed in by the amount.',
  resolve: (s) => ({ file: s.file, space: s.space, amount: s.amountPercent / 100 }),
  render: ({ file: value, space, amount }, { asset }) => {
    const found = value !== '' && amount > 0 ? asset?.(value) : undefined
    if (found?.kind !== 'look') return { kind: 'none' }
    const { look } = found
    const toTarget = rgbToRgb(workingSpace, colourSpaces[space as 'srgb'])
    const [enter, leave] = [conversion('linear', 'encoded'), conversion('encoded', 'linear')]
    const span = mapTriple(look.domainMax, (high, i) => high - look.domainMin[i])
    const isPlain = look.domainMin.every((low) => low === 0) && span.every((width) => width === 1)
    const toDomain = [
      1 / span[0],
      0,
      0,
      -look.domainMin[0] / span[0],
      0,
      1 / span[1],
      0,
      -look.domainMin[1] / span[1],
      0,
      0,
      1 / span[2],
      -look.domainMin[2] / span[2],
    ]
    const work = byPosition('linear', ({ kernels: { run, heap } }, { channels, stride, height }) => {
      const count = stride * height
      const before = amount < 1 ? channels.map((channel) => copied(heap, channel, count)) : []
      run.matrix(...channels, count, heap.floats(toTarget))
      for (const { kernel, parameters } of enter) run[kernel](...channels, count, heap.floats(parameters))
      if (!isPlain) run.affine(...channels, count, heap.floats(toDomain))
      if (look.kind === '3d') run.lookTable(...channels, count, heap.floats(vectorsOf(look)), look.size)
      else run.curve(...channels, count, heap.floats(curvesOf(look)))
      for (const { kernel, parameters } of leave) run[kernel](...channels, count, heap.floats(parameters))
      run.matrix(...channels, count, heap.floats(invert(toTarget)))
      for (const [i, base] of before.entries()) run.mix(channels[i as 0], base, count, amount)
    })
    return { ...work, byColourAlone: true }
  },
  describe: (s) => (s.file === '' ? 'no file yet' : `${keptFileName(s.file)}${s.amountPercent < 100 ? `, ${s.amountPercent} %` : ''}`),
})

function copied(heap: { allocate(bytes: number): number; readonly memory: WebAssembly.Memory }, from: number, count: number): number {
  const to = heap.allocate(count * 4)
  new Uint8Array(heap.memory.buffer).copyWithin(to, from, from + count * 4)
  return to
}
