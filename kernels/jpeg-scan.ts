import { byteAt } from '@/base/numbers'
import { present } from '@/base/present'
import type { Kernels } from './binding'

/*
 * Whether the scans of a JPEG are as an encoder wrote them. Its segments are read here (ITU-T T.81, annex B), its
 * entropy-coded data by the kernel. Sequential Huffman coding of 8 bits is checked; other kinds are left to the decoder.
 */

const marker = { sof0: 0xc0, sof1: 0xc1, dht: 0xc4, sof15: 0xcf, soi: 0xd8, eoi: 0xd9, sos: 0xda, dqt: 0xdb, dri: 0xdd } as const
const isStartOfFrame = (code: number): boolean =>
  code >= marker.sof0 && code <= marker.sof15 && code !== marker.dht && code !== 0xc8 && code !== 0xcc

/** The layout of a table in the kernel's memory; see kernels/assembly/jpeg-scan.ts. */
const quickBits = 10
const [largestAt, offsetAt, symbolsAt, tableBytes] = [2048, 2048 + 68, 2048 + 136, 2560]
/** Four tables of means, then four of coefficients. */
const tableCount = 8
/** What the kernel makes of those of coefficients. */
const stretchBytes = 4 * 8192
/** Codes of the largest mean of a picture of 8 bits, times 8 (T.81, A.3.3), and what rounding and changes without decoding may add. */
const [maxMean, meanSlack] = [1024, 96]

interface Component {
  readonly id: number
  readonly across: number
  readonly down: number
  readonly quantisation: number
}

interface Frame {
  readonly width: number
  readonly height: number
  readonly components: readonly Component[]
}

/** False for a file whose scan was changed after it was written, as far as that can be told. */
export function isWholeJpeg(kernels: Kernels, bytes: Uint8Array): boolean {
  return kernels.heap.scope(() => new ScanReader(kernels, bytes).isWhole())
}

class ScanReader {
  private readonly view: DataView
  private readonly data: number
  private readonly tables: number
  private readonly quantisers = new Map<number, number>()
  private frame: Frame | undefined
  private interval = 0

  constructor(
    private readonly kernels: Kernels,
    private readonly bytes: Uint8Array,
  ) {
    const { heap } = kernels
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
    this.tables = heap.allocate(tableBytes * tableCount)
    this.data = heap.allocate(bytes.length)
    heap.u8(this.tables, tableBytes * tableCount).fill(0)
    heap.u8(this.data, bytes.length).set(bytes)
  }

  isWhole(): boolean {
    let at = 2
    while (at + 4 <= this.bytes.length) {
      if (this.bytes[at] !== 0xff) return true
      const code = byteAt(this.bytes, at + 1)
      if (code === 0xff) {
        at++
        continue
      }
      if (code === marker.eoi) return true
      const length = this.view.getUint16(at + 2)
      const [from, end] = [at + 4, at + 2 + length]
      if (length < 2 || end > this.bytes.length) return false
      if (isStartOfFrame(code)) {
        // Progressive, arithmetic, lossless, or of 12 bits: not read here.
        if (code > marker.sof1 || this.bytes[from] !== 8) return true
        this.frame = this.readFrame(from)
        if (!this.frame) return true
      }
      if (code === marker.dqt) this.readQuantisers(from, end)
      if (code === marker.dht) this.readTables(from, end)
      if (code === marker.dri) this.interval = this.view.getUint16(from)
      if (code === marker.sos) {
        const behind = this.readScan(from, end)
        if (behind === undefined) return true
        if (behind === 0) return false
        at = behind
      } else at = end
    }
    return true
  }

  private readFrame(from: number): Frame | undefined {
    const [height, width, count] = [this.view.getUint16(from + 1), this.view.getUint16(from + 3), byteAt(this.bytes, from + 5)]
    const components = Array.from({ length: count }, (_, i) => {
      const own = from + 6 + i * 3
      const sampling = byteAt(this.bytes, own + 1)
      return { id: byteAt(this.bytes, own), across: sampling >> 4, down: sampling & 15, quantisation: byteAt(this.bytes, own + 2) }
    })
    const isUsual = height > 0 && width > 0 && count <= 4 && components.every(({ across, down }) => across > 0 && down > 0)
    return isUsual ? { width, height, components } : undefined
  }

  /** Of each table only the step of the mean is wanted: the first. */
  private readQuantisers(from: number, end: number): void {
    for (let at = from; at < end; ) {
      const head = byteAt(this.bytes, at)
      const isDeep = head >> 4 > 0
      this.quantisers.set(head & 15, isDeep ? this.view.getUint16(at + 1) : byteAt(this.bytes, at + 1))
      at += 1 + (isDeep ? 128 : 64)
    }
  }

  /** Codes by their lengths (T.81, annex C), as the kernel looks them up. */
  private readTables(from: number, end: number): void {
    for (let at = from; at + 17 <= end; ) {
      const head = byteAt(this.bytes, at)
      const counts = this.bytes.subarray(at + 1, at + 17)
      const symbols = this.bytes.subarray(at + 17, at + 17 + counts.reduce((sum, count) => sum + count, 0))
      this.writeTable(((head >> 4) & 1) * 4 + (head & 3), counts, symbols)
      at += 17 + symbols.length
    }
  }

  private writeTable(index: number, counts: Uint8Array, symbols: Uint8Array): void {
    const { heap } = this.kernels
    const table = new DataView(heap.memory.buffer, this.tables + index * tableBytes, tableBytes)
    for (let i = 0; i < symbolsAt; i += 4) table.setInt32(i, 0)
    let [code, place] = [0, 0]
    for (let length = 1; length <= 16; length++) {
      const count = byteAt(counts, length - 1)
      table.setInt32(offsetAt + length * 4, place - code, true)
      for (let i = 0; i < count; i++, code++, place++)
        if (length <= quickBits) {
          const entry = (length << 8) | byteAt(symbols, place)
          const first = code << (quickBits - length)
          for (let low = 0; low < 1 << (quickBits - length) && first + low < 1 << quickBits; low++)
            table.setUint16((first + low) * 2, entry, true)
        }
      table.setInt32(largestAt + length * 4, count > 0 ? code - 1 : -1, true)
      code <<= 1
    }
    heap.u8(this.tables + index * tableBytes + symbolsAt, 256).set(symbols.subarray(0, 256))
  }

  /** The place behind a scan; 0 where it is not sound, undefined where it can't be told. */
  private readScan(from: number, end: number): number | undefined {
    const { frame } = this
    if (!frame) return undefined
    const count = byteAt(this.bytes, from)
    const parts = Array.from({ length: count }, (_, i) => {
      const [id, selectors] = [this.bytes[from + 1 + i * 2], byteAt(this.bytes, from + 2 + i * 2)]
      return { index: frame.components.findIndex((component) => component.id === id), mean: selectors >> 4, rest: selectors & 15 }
    })
    if (count === 0 || parts.some(({ index, mean, rest }) => index < 0 || mean > 3 || rest > 3)) return undefined
    const [maxAcross, maxDown] = [Math.max(...frame.components.map((c) => c.across)), Math.max(...frame.components.map((c) => c.down))]
    const blocks = parts.flatMap(({ index, mean, rest }) => {
      const { across, down } = present(frame.components[index])
      const own = [index, mean * tableBytes, (4 + rest) * tableBytes]
      return Array.from({ length: count === 1 ? 1 : across * down }, () => own)
    })
    const lone = present(frame.components[parts[0]?.index ?? 0])
    const units = (size: number, own: number, max: number): number =>
      count === 1 ? Math.ceil(Math.ceil((size * own) / max) / 8) : Math.ceil(size / (8 * max))
    const mcus = units(frame.width, lone.across, maxAcross) * units(frame.height, lone.down, maxDown)
    const largest = Array.from({ length: 4 }, (_, i) => {
      const step = this.quantisers.get(frame.components[i]?.quantisation ?? 0) || 1
      return Math.ceil((maxMean + meanSlack) / step) + 1
    })
    const { heap, run } = this.kernels
    return heap.scope(() => {
      const plan = heap.integers([mcus, this.interval, blocks.length, ...largest, ...blocks.flat()])
      const behind = run.readScan(this.data + end, this.data + this.bytes.length, plan, this.tables, heap.allocate(stretchBytes))
      return behind === 0 ? 0 : behind - this.data
    })
  }
}
