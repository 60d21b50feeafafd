/* Which files are pictures by their names. Whether one is shows when it is read. */

/** Raw files that the decoder knows. */
export const rawExtensions: ReadonlySet<string> = new Set(
  (
    '.3fr .ari .arw .bay .cap .cr2 .cr3 .crw .dcr .dcs .dng .erf .fff .gpr .iiq .k25 .kdc .mdc .mef .mos .mrw .nef .nrw .orf .pef ' +
    '.ptx .raf .raw .rw2 .rwl .rwz .sr2 .srf .srw .x3f'
  ).split(' '),
)

const suffixOf = (name: string): string => name.slice(Math.max(0, name.lastIndexOf('.'))).toLowerCase()

/** Whether a file's name is that of a raw file. */
export const isRawName = (name: string): boolean => rawExtensions.has(suffixOf(name.slice(name.lastIndexOf('/') + 1)))

export const pictureExtensions: ReadonlySet<string> = new Set([
  '.jpg',
  '.jpeg',
  '.png',
  '.tif',
  '.tiff',
  '.webp',
  '.avif',
  ...rawExtensions,
])

/** Whether a file's name is that of a picture; hidden ones are none. */
export const isPictureName = (name: string): boolean => {
  const file = name.slice(name.lastIndexOf('/') + 1)
  return !file.startsWith('.') && pictureExtensions.has(suffixOf(file))
}
