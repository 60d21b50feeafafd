import { counted } from '@/base/format'

/** What lay in an intake and was not taken, by reason. */
export interface LeftOut {
  /** Subfolders that could not be read. */
  readonly folders: readonly string[]
  /** Files and folders that are links. */
  readonly links: number
  /** Names that are no UTF-8: no program can be sure what they say. */
  readonly unreadableNames: number
  /** Files called pictures that are something else: a named pipe, a device. */
  readonly notFiles: number
  /** Pictures of kinds that are not read, by their suffix in capitals: `CR2`. */
  readonly kinds: Readonly<Record<string, number>>
}

export const nothingLeftOut: LeftOut = { folders: [], links: 0, unreadableNames: 0, notFiles: 0, kinds: {} }

/** What two folders of an intake left out together. */
export const bothLeftOut = (a: LeftOut, b: LeftOut): LeftOut => ({
  folders: [...a.folders, ...b.folders],
  links: a.links + b.links,
  unreadableNames: a.unreadableNames + b.unreadableNames,
  notFiles: a.notFiles + b.notFiles,
  kinds: summed(a.kinds, b.kinds),
})

function summed(a: LeftOut['kinds'], b: LeftOut['kinds']): LeftOut['kinds'] {
  const sum: Record<string, number> = { ...a }
  for (const [kind, count] of Object.entries(b)) sum[kind] = (sum[kind] ?? 0) + count
  return sum
}

/** Suffixes of pictures that other programs read and this one does not. */
export const unreadKinds: ReadonlySet<string> = new Set('bmp cin dpx exr gif hdr heic heif hif j2k jp2 jxl psb psd svg tga xcf'.split(' '))

/** How many folders are named before “and others”. */
const maxNamed = 3

/** In sentences; none where nothing was left out. */
export function leftOutSentences({ folders, links, unreadableNames, notFiles, kinds }: LeftOut): string[] {
  const sentences: string[] = []
  const unread = Object.entries(kinds).toSorted(([, a], [, b]) => b - a)
  const unreadCount = unread.reduce((sum, [, count]) => sum + count, 0)
  if (unreadCount > 0)
    sentences.push(`${counted(unreadCount, 'file')} of kinds that are not read: ${unread.map(([kind]) => kind).join(', ')}.`)
  if (folders.length > 0) {
    const more = folders.length > maxNamed ? ` and ${counted(folders.length - maxNamed, 'other')}` : ''
    sentences.push(
      `${counted(folders.length, 'subfolder')} can't be read: ${folders.slice(0, maxNamed).join(', ')}${more}. Check the permissions.`,
    )
  }
  if (links > 0) sentences.push(`${counted(links, 'link')} to pictures or folders elsewhere ${links === 1 ? 'is' : 'are'} not followed.`)
  if (unreadableNames > 0)
    sentences.push(
      `${counted(unreadableNames, 'name')} can't be read as text (not UTF-8). Rename ${unreadableNames === 1 ? 'it' : 'them'}.`,
    )
  if (notFiles > 0)
    sentences.push(`${counted(notFiles, 'entry', 'entries')} with a picture's name ${notFiles === 1 ? 'is no file' : 'are no files'}.`)
  return sentences
}
