import { readFileSync } from 'node:fs'
import { parseCube } from '@/colour/cube'
import { fontKey, fonts } from '@/pixels/fonts'
import type { Asset } from '@/pixels/kept-file'

/** A look that bends red up and blue down, as text. */
export const bentCube = (size: number): string => {
  const rows: string[] = []
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++) {
        const [x, y, z] = [r, g, b].map((index) => index / (size - 1)) as [number, number, number]
        rows.push([x ** 0.8, y, z ** 1.25 * 0.9].map((value) => value.toFixed(6)).join(' '))
      }
  return `TITLE "bent"\nLUT_3D_SIZE ${size}\n${rows.join('\n')}\n`
}

const mark = (): Asset => {
  const size = { width: 24, height: 16 }
  const pixels = new Uint8Array(size.width * size.height * 4)
  for (let y = 0; y < 16; y++)
    for (let x = 0; x < 24; x++) pixels.set([200, 90, 40, Math.hypot(x - 12, (y - 8) * 1.5) < 10 ? 255 : 0], (y * 24 + x) * 4)
  return { kind: 'image', size, pixels }
}

/** Files that operations may name in tests, by what a macro says of them. */
export const testFiles: Readonly<Record<string, Asset>> = {
  [`${'a'.repeat(64)}/bent.cube`]: { kind: 'look', look: parseCube(bentCube(9)) },
  [`${'b'.repeat(64)}/mark.png`]: mark(),
}

/** A shipped face, from its package: tests need no build before them. */
const face = (id: string): Asset => {
  const [, family, weight] = id.match(/^(.+)-(\d+)$/) ?? []
  const bytes = readFileSync(`node_modules/@fontsource/${family}/files/${family}-latin-${weight}-normal.woff`)
  return { kind: 'font', bytes: bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length) as ArrayBuffer }
}

export const testAssets: ReadonlyMap<string, Asset> = new Map([
  ...Object.entries(testFiles).map(([value, asset]) => [value.slice(0, 64), asset] as const),
  ...Object.keys(fonts).map((id) => [fontKey(id), face(id)] as const),
])
