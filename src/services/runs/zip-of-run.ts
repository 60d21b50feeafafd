import { Readable } from 'node:stream'
import yazl from 'yazl'
import { openRegular } from '@/files/open-file'
import type { ZipEntry } from './results'

/** The files as one archive, streamed. Pictures are not compressed again. */
export function zipOf(entries: readonly ZipEntry[]): ReadableStream {
  const zip = new yazl.ZipFile()
  for (const { path, name } of entries)
    zip.addReadStreamLazy(name, { compress: false }, (give) => {
      openRegular(path).then(
        (file) => give(null, file.createReadStream()),
        (error) => give(error, Readable.from([])),
      )
    })
  zip.end()
  return Readable.toWeb(zip.outputStream as Readable) as ReadableStream
}
