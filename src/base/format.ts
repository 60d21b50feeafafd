/** Numbers as the interface and reports write them: true minus sign, fixed digits, thin grouping left out. */
export function plainNumber(value: number, digits = 0): string {
  const text = Math.abs(value).toFixed(digits)
  return value < 0 && Number(text) !== 0 ? `−${text}` : text
}

/** With its sign even when positive; zero has none. */
export function signedNumber(value: number, digits = 0): string {
  const text = plainNumber(value, digits)
  return value > 0 && Number(text) !== 0 ? `+${text}` : text
}

/** Shortest form with at most `digits` decimals: 0.8, 12, 1.25. */
export const shortNumber = (value: number, digits = 2): string => plainNumber(Number(value.toFixed(digits)), decimalsOf(value, digits))

function decimalsOf(value: number, max: number): number {
  const text = String(Number(value.toFixed(max)))
  return text.includes('.') ? text.length - text.indexOf('.') - 1 : 0
}

const byteUnits = ['B', 'kB', 'MB', 'GB', 'TB'] as const

/** Decimal units (IEC 80000-13): 1 MB = 1,000,000 bytes. */
export function formatBytes(sizeBytes: number): string {
  let value = sizeBytes
  let unit = 0
  while (value >= 999.5 && unit < byteUnits.length - 1) {
    value /= 1000
    unit++
  }
  return `${value.toFixed(unit === 0 || value >= 99.95 ? 0 : 1)} ${byteUnits[unit]}`
}

export const formatSize = (size: { width: number; height: number }): string => `${size.width} × ${size.height} px`

/** `1 picture`, `88 pictures`. */
export const counted = (count: number, one: string, many = `${one}s`): string =>
  `${count.toLocaleString('en-GB')} ${count === 1 ? one : many}`

/** Seconds as people say them: `4 s`, `3 min`, `1 h 20 min`. */
export function formatDuration(seconds: number): string {
  if (seconds < 59.5) return `${Math.max(0, Math.round(seconds))} s`
  const minutes = Math.round(seconds / 60)
  if (minutes < 60) return `${minutes} min`
  const rest = minutes % 60
  return rest === 0 ? `${minutes / 60} h` : `${Math.floor(minutes / 60)} h ${rest} min`
}

/** With no-break spaces between numbers and their units (ISO 80000-1, 7.3.3: a unit follows its number): no line ends there. */
export const unitsKept = (text: string): string => text.replace(/(\d) (?=(?:%|px|EV|K|MP|mm|cm|in|dpi)(?![\p{L}\d]))/gu, '$1\u00a0')

/** A change in words: `0.33 EV darker`, `4 % higher`; nothing for none. */
export function moreOrLess(by: number, unit: string, [more, less]: readonly [string, string], digits: number): string | undefined {
  const size = Math.abs(by).toFixed(digits)
  return Number(size) === 0 ? undefined : `${size}${unit} ${by > 0 ? more : less}`
}
