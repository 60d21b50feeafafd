import type { Pointer } from './heap'

/** Between interleaved codes and planes of floats; the documentation stands with each function in kernels/assembly. */
export interface CodeExports {
  indexColours(
    r: Pointer,
    g: Pointer,
    b: Pointer,
    count: number,
    thresholds: Pointer,
    levels: number,
    low: number,
    scale: number,
    numbers: Pointer,
    cells: Pointer,
    known: number,
    max: number,
    target: Pointer,
  ): number
  paintPalette(numbers: Pointer, count: number, colours: Pointer, target: Pointer): void
  decodeRows8(
    codes: Pointer,
    rowBytes: number,
    width: number,
    rows: number,
    tables: Pointer,
    r: Pointer,
    g: Pointer,
    b: Pointer,
    stride: number,
  ): void
  decodeRow16(source: Pointer, width: number, tables: Pointer, matrix: Pointer, r: Pointer, g: Pointer, b: Pointer): void
  encodeRow8(r: Pointer, g: Pointer, b: Pointer, width: number, target: Pointer, channels: 3 | 4, x: number, y: number, dither: 0 | 1): void
  encodeRow16(r: Pointer, g: Pointer, b: Pointer, width: number, target: Pointer): void
}
