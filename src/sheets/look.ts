/* How words and lines look on pages, wherever they are drawn. */

/** From the upper edge of a line to its baseline, in sizes of type. */
export const ascent = 0.95

/** Black or white, whichever can be read on a colour (#rrggbb). */
export function inkOn(ground: string): '#000000' | '#ffffff' {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((at) => Number.parseInt(ground.slice(at, at + 2), 16) / 255)
  const linear = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
  const luminance = 0.2126 * linear(r) + 0.7152 * linear(g) + 0.0722 * linear(b)
  // Contrast with white against contrast with black, WCAG 2.2.
  return 1.05 / (luminance + 0.05) > (luminance + 0.05) / 0.05 ? '#ffffff' : '#000000'
}

/** The line around pictures. */
export const hairline = { colour: '#808080', widthPt: 0.5 } as const
