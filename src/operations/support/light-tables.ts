import type { PointPass } from '../declare/operation'

/** See kernels/assembly/tables.ts: values up to 0 lie as evenly as their roots, those above it as floats do, 2^−20 further on. */
const [belowSpans, octaves, spansPerOctave] = [256, 32, 128]
const shift = 2 ** -20

/** Values whose results the kernel's table holds: from −1 to 4096, among them 0 and, to a millionth, 1. */
export const lightNodes = Float32Array.from({ length: belowSpans + octaves * spansPerOctave + 1 }, (_, i) => {
  if (i < belowSpans) return -((1 - i / belowSpans) ** 2)
  const above = i - belowSpans
  return shift * (2 ** Math.floor(above / spansPerOctave) * (1 + (above % spansPerOctave) / spansPerOctave) - 1)
})

/** One function for all channels, from −1 to 4096; in between as a line. */
export function lightTablePass(value: (at: number) => number): PointPass {
  const table = Array.from(lightNodes, value)
  return { kernel: 'lightTables', parameters: [...table, ...table, ...table] }
}
