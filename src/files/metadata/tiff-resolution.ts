const resolutionUnit = 0x0128
const entryBytes = 12
/** TIFF 6.0, section 8: no absolute unit; the two resolutions then only say whether pixels are square. */
const noUnit = 1

/** A TIFF whose resolution is a mere ratio, since nobody stated one. The format does not let it be left out. */
export function withoutUnit(tiff: Buffer): Buffer {
  const little = tiff.toString('latin1', 0, 2) === 'II'
  const u16 = (at: number): number => (little ? tiff.readUInt16LE(at) : tiff.readUInt16BE(at))
  const directory = little ? tiff.readUInt32LE(4) : tiff.readUInt32BE(4)
  for (let i = 0; i < u16(directory); i++) {
    const at = directory + 2 + i * entryBytes
    if (u16(at) !== resolutionUnit) continue
    if (little) tiff.writeUInt16LE(noUnit, at + 8)
    else tiff.writeUInt16BE(noUnit, at + 8)
  }
  return tiff
}
