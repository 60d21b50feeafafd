import type { PointPass } from '../declare/operation'

/** Values whose results the kernel's table holds: squares of roots from −1 to 0, to 1 and to 5; see kernels/assembly/tables.ts. */
export const rootNodes = Float32Array.from({ length: 256 + 2048 + 1024 + 1 }, (_, i) => {
  const root = i < 256 ? (i - 256) / 256 : i < 256 + 2048 ? (i - 256) / 2048 : 1 + (i - 256 - 2048) / 256
  return Math.sign(root) * root ** 2
})

/** One function for all channels, from −1 to 25; in between as a line. */
export function rootTablePass(value: (at: number) => number): PointPass {
  const table = Array.from(rootNodes, value)
  return { kernel: 'rootTables', parameters: [...table, ...table, ...table] }
}
