import { isPictureName } from '@/jobs/picture-names'

/** A file that was dropped, and its path within what was dropped. */
export interface DroppedFile {
  readonly file: File
  readonly name: string
}

/** What a drop holds: its pictures, and how many other files. */
export interface Dropped {
  readonly pictures: readonly DroppedFile[]
  readonly others: number
}

/** A folder gives its entries a hundred at a time, until it gives none. */
async function entriesOf(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader()
  const all: FileSystemEntry[] = []
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (some.length === 0) return all
    all.push(...some)
  }
}

const fileOf = (entry: FileSystemFileEntry): Promise<File> => new Promise((resolve, reject) => entry.file(resolve, reject))

/** Files and folders of a drop, all the way down. What is called no picture, and what is hidden, is only counted. */
export async function filesOfDrop(data: DataTransfer): Promise<Dropped> {
  // What was dropped is only told while the drop is handled: entries are taken before anything is waited for.
  const roots = [...data.items].flatMap((item) => item.webkitGetAsEntry() ?? [])
  const loose = roots.length === 0 ? [...data.files] : []
  const pictures: DroppedFile[] = loose.filter(({ name }) => isPictureName(name)).map((file) => ({ file, name: file.name }))
  let others = loose.length - pictures.length
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isDirectory) {
      if (entry.name.startsWith('.')) return
      for (const below of await entriesOf(entry as FileSystemDirectoryEntry)) await walk(below)
    } else if (isPictureName(entry.name)) {
      pictures.push({ file: await fileOf(entry as FileSystemFileEntry), name: entry.fullPath.replace(/^\//, '') })
    } else others++
  }
  for (const entry of roots) await walk(entry)
  return { pictures, others }
}
