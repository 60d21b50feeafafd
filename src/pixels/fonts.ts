/** Faces that ship with the application, all under the SIL Open Font License. The files are `fonts/<id>.woff`. */
export const fonts = {
  'instrument-sans-400': 'Instrument Sans',
  'instrument-sans-600': 'Instrument Sans, semibold',
  'jetbrains-mono-400': 'JetBrains Mono',
} as const

export type FontId = keyof typeof fonts

/** What assets call a face. */
export const fontKey = (id: string): string => `font:${id}`
