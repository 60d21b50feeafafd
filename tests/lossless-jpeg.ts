import { wordAt } from '@/base/numbers'

/** As many categories as differences of 16 bits have; each gets a code of five bits, the last of which, all ones, is left free. */
const categories = 17
const codeBits = 5

/**
 * One plane as lossless JPEG (ITU-T T.81, annex H: SOF3, the sample to the left as predictor), as cameras and DNG pack mosaics. Its Huffman
 * table is the plainest there can be.
 */
export function losslessJpeg(rows: readonly Uint16Array[], bits: number): Buffer {
  const [height, width] = [rows.length, rows[0]?.length ?? 0]
  const out: number[] = []
  let [held, count] = [0, 0]
  const write = (value: number, length: number): void => {
    for (let i = length - 1; i >= 0; i--) {
      held = (held << 1) | ((value >> i) & 1)
      if (++count < 8) continue
      out.push(held)
      // A byte of ones is no marker: a zero follows it (T.81, F.1.2.3).
      if (held === 0xff) out.push(0)
      held = 0
      count = 0
    }
  }
  for (const [y, row] of rows.entries())
    for (let x = 0; x < width; x++) {
      const above = rows[y - 1]
      const predicted = x > 0 ? wordAt(row, x - 1) : above ? wordAt(above, 0) : 1 << (bits - 1)
      const difference = ((wordAt(row, x) - predicted) << 16) >> 16
      const category = difference === 0 ? 0 : 32 - Math.clz32(Math.abs(difference))
      write(category, codeBits)
      if (category > 0 && category < 16) write(difference > 0 ? difference : difference + (1 << category) - 1, category)
    }
  while (count > 0) write(1, 1)
  const u16 = (value: number): number[] => [value >> 8, value & 255]
  const lengths = Array.from({ length: 16 }, (_, i) => (i === codeBits - 1 ? categories : 0))
  return Buffer.from([
    ...[0xff, 0xd8],
    ...[0xff, 0xc3, ...u16(11), bits, ...u16(height), ...u16(width), 1, 1, 0x11, 0],
    ...[0xff, 0xc4, ...u16(19 + categories), 0, ...lengths, ...Array.from({ length: categories }, (_, i) => i)],
    ...[0xff, 0xda, ...u16(8), 1, 1, 0, 1, 0, 0],
    ...out,
    ...[0xff, 0xd9],
  ])
}
