import exifr from 'exifr'

export type Tags = Readonly<Record<string, unknown>>

/**
 * Reads tags of files with one and the same object of options for all calls: exifr keeps what it makes of each object for ever.
 * @param options as exifr's documentation has them; its types know only some
 */
export function tagReader(options: Readonly<Record<string, unknown>>): (input: Buffer | string) => Promise<Tags | undefined> {
  const known = options as never
  return (input) => exifr.parse(input, known).catch(() => undefined)
}
