import { floatAt, numberAt } from '@/base/numbers'
import { vector3 } from './matrix'
/**
 * Colour look-up tables as `.cube` text: keywords `LUT_1D_SIZE` or `LUT_3D_SIZE`, `DOMAIN_MIN`, `DOMAIN_MAX`, then one line of three
 * numbers an entry, red changing fastest. An open text format that many programs read and write.
 */
export interface LookTable {
  readonly kind: '1d' | '3d'
  /** Entries along one axis. */
  readonly size: number
  readonly domainMin: readonly [number, number, number]
  readonly domainMax: readonly [number, number, number]
  /** Three numbers an entry. */
  readonly values: Float32Array
}

export const cubeLimits = { text: 1 << 25, size1d: 65536, size3d: 129 } as const

/** Why a text is no look. */
export class CubeError extends Error {
  override readonly name = 'CubeError'
}

type Triple = readonly [number, number, number]

function triple(words: readonly string[], line: number): Triple {
  const numbers = words.map(Number)
  if (numbers.length !== 3 || !numbers.every(Number.isFinite)) throw new CubeError(`line ${line} does not hold three numbers`)
  return vector3(numbers)
}

/** @throws CubeError */
export function parseCube(text: string): LookTable {
  if (text.length > cubeLimits.text) throw new CubeError('the file is too large')
  let kind: LookTable['kind'] | undefined
  let size = 0
  let [domainMin, domainMax]: [Triple, Triple] = [
    [0, 0, 0],
    [1, 1, 1],
  ]
  const entries: number[] = []
  for (const [index, raw] of text.split(/\r\n|\r|\n/).entries()) {
    const line = raw.trim()
    if (line === '' || line.startsWith('#') || /^title\b/i.test(line)) continue
    const [word = '', ...rest] = line.split(/\s+/)
    const keyword = word.toUpperCase()
    if (keyword === 'LUT_1D_SIZE' || keyword === 'LUT_3D_SIZE') {
      if (kind) throw new CubeError(`line ${index + 1} gives a second size`)
      kind = keyword === 'LUT_1D_SIZE' ? '1d' : '3d'
      size = Number(rest[0])
      const max = kind === '1d' ? cubeLimits.size1d : cubeLimits.size3d
      if (!Number.isInteger(size) || size < 2 || size > max) throw new CubeError(`line ${index + 1}: the size must be 2 to ${max}`)
    } else if (keyword === 'DOMAIN_MIN') domainMin = triple(rest, index + 1)
    else if (keyword === 'DOMAIN_MAX') domainMax = triple(rest, index + 1)
    else if (/^[A-Z]/.test(keyword) && keyword !== 'NAN' && keyword !== 'INFINITY') continue
    else entries.push(...triple([word, ...rest], index + 1))
  }
  if (!kind) throw new CubeError('it gives no LUT_1D_SIZE or LUT_3D_SIZE')
  const wanted = kind === '1d' ? size : size ** 3
  if (entries.length !== wanted * 3) throw new CubeError(`it holds ${entries.length / 3} entries, not ${wanted}`)
  if (domainMax.some((high, i) => high <= numberAt(domainMin, i))) throw new CubeError('DOMAIN_MAX is not above DOMAIN_MIN')
  return { kind, size, domainMin, domainMax, values: Float32Array.from(entries) }
}

/** The table as text, with six decimals. */
export function writeCube({ kind, size, domainMin, domainMax, values }: LookTable, title: string): string {
  const rows = Array.from({ length: values.length / 3 }, (_, i) => [0, 1, 2].map((c) => floatAt(values, i * 3 + c).toFixed(6)).join(' '))
  const head = [
    `TITLE "${title.replace(/["\r\n]/g, ' ')}"`,
    `LUT_${kind.toUpperCase()}_SIZE ${size}`,
    `DOMAIN_MIN ${domainMin.join(' ')}`,
    `DOMAIN_MAX ${domainMax.join(' ')}`,
  ]
  return `${[...head, ...rows].join('\n')}\n`
}
