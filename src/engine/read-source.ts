import type { Kernels } from '@kernels/binding'
import { copyPlane, type Planes } from '@kernels/planes'
import type { Rect } from '@/base/geometry'
import { numberAt } from '@/base/numbers'
import type { InterleavedSource } from '@/pixels/picture'
import type { Plan } from './plan'
import { type CodeDomain, decodeTables, domainOfCodes, type HeldSource, type PlaneSource } from './source'

/** A rectangle of a source, in the domain that the plan starts from, to planes that are there already. */
export function readSource(kernels: Kernels, { source, start }: Pick<Plan, 'source' | 'start'>, rect: Rect, target: Planes): void {
  if (source.kind === 'planes') copyFrame(kernels, source, rect, target)
  else if (source.kind === 'interleaved') decode(kernels, source, domainOfCodes(source.colour, start.domain), rect, target)
  else {
    const lies = viewOf(source, rect)
    for (const [i, channel] of target.channels.entries())
      copyPlane(kernels.heap, numberAt(lies.channels, i), lies.stride, 0, 0, channel, { ...rect, stride: target.stride })
  }
}

/** A rectangle of a held frame where it lies: to be read only. */
export function viewOf({ planes }: HeldSource, { x, y, width, height }: Rect): Planes {
  const at = (y * planes.stride + x) * 4
  const [r, g, b] = planes.channels
  return { width, height, stride: planes.stride, channels: [r + at, g + at, b + at] }
}

function copyFrame({ heap }: Kernels, source: PlaneSource, rect: Rect, target: Planes): void {
  const planeLength = source.size.width * source.size.height
  const floats = new Float32Array(heap.memory.buffer)
  // Whole rows without gaps in one go.
  const lies = rect.width === source.size.width && rect.width === target.stride
  const [length, lines] = lies ? [rect.width * rect.height, 1] : [rect.width, rect.height]
  target.channels.forEach((channel, i) => {
    for (let line = 0; line < lines; line++) {
      const start = i * planeLength + (line + rect.y) * source.size.width + rect.x
      floats.set(source.planes.subarray(start, start + length), (channel >> 2) + line * target.stride)
    }
  })
}

/** Codes are brought so many bytes at a time: they stay in a second-level cache until they are read. */
const broughtBytes = 1 << 17

function decode(kernels: Kernels, source: InterleavedSource, domain: CodeDomain, rect: Rect, target: Planes): void {
  const { heap, run } = kernels
  const { pixels, size, colour } = source
  heap.scope(() => {
    const wide = pixels instanceof Uint16Array
    const { tables, matrix } = decodeTables(colour, wide ? 16 : 8, domain)
    const tablesAt = heap.floats(tables)
    const matrixAt = heap.floats(matrix)
    const rowLength = rect.width * 3
    const rowBytes = rowLength * pixels.BYTES_PER_ELEMENT
    const rows = Math.max(1, Math.min(rect.height, Math.floor(broughtBytes / rowBytes)))
    // Whole vectors are read: some bytes more.
    const codes = heap.allocate(rows * rowBytes + 32)
    const buffer = heap.memory.buffer
    const brought = wide ? new Uint16Array(buffer, codes, rows * rowLength) : new Uint8Array(buffer, codes, rows * rowLength)
    const [r, g, b] = target.channels
    for (let y = 0; y < rect.height; y += rows) {
      const count = Math.min(rows, rect.height - y)
      // Whole rows of the picture lie one behind the other.
      const [lines, length] = rect.width === size.width ? [1, count * rowLength] : [count, rowLength]
      for (let line = 0; line < lines; line++) {
        const start = ((y + line + rect.y) * size.width + rect.x) * 3
        brought.set(pixels.subarray(start, start + length), line * rowLength)
      }
      const at = y * target.stride * 4
      if (!wide) run.decodeRows8(codes, rowBytes, rect.width, count, tablesAt, r + at, g + at, b + at, target.stride)
      else
        for (let line = 0; line < count; line++) {
          const to = at + line * target.stride * 4
          run.decodeRow16(codes + line * rowBytes, rect.width, tablesAt, matrixAt, r + to, g + to, b + to)
        }
    }
  })
}
