/* Which files are pictures by their names. Whether one is shows when it is read. */

export const pictureExtensions: ReadonlySet<string> = new Set(['.jpg', '.jpeg', '.png', '.tif', '.tiff', '.webp', '.avif'])

/** Whether a file's name is that of a picture; hidden ones are none. */
export const isPictureName = (name: string): boolean => {
  const file = name.slice(name.lastIndexOf('/') + 1)
  return !file.startsWith('.') && pictureExtensions.has(file.slice(Math.max(0, file.lastIndexOf('.'))).toLowerCase())
}
