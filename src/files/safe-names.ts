/*
 * Names that every common system accepts. Rules: characters and device names that FAT, NTFS and their tools
 * refuse; '/' everywhere; 255 bytes a name (ext4, APFS, NTFS count differently: bytes are the strictest).
 */

// biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what must be found
const forbidden = /[<>:"/\\|?*\u0000-\u001f\u007f]/g
const deviceName = /^(con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³])(\.|$)/i
const maxNameBytes = 255

/** One path segment made safe: NFC, forbidden characters as `-`, no trailing dots or spaces, never empty. */
export function safeSegment(name: string): string {
  const cleaned = name
    .normalize('NFC')
    .replace(forbidden, '-')
    .replace(/[. ]+$/, '')
    .replace(/^ +/, '')
  const named = deviceName.test(cleaned) ? `_${cleaned}` : cleaned
  return named || '_'
}

/** Cuts a stem so that stem + suffix, and `besideBytes` more, fit into one name; whole characters are kept. */
export function fitName(stem: string, suffix: string, besideBytes = 0): string {
  const room = maxNameBytes - besideBytes - Buffer.byteLength(suffix)
  let cut = stem
  while (Buffer.byteLength(cut) > room) cut = [...cut].slice(0, -1).join('')
  return cut.replace(/[. ]+$/, '') + suffix
}

/** Two paths with the same key would be one file on a system that ignores case. */
export const collisionKey = (path: string): string => path.normalize('NFC').toLowerCase()
