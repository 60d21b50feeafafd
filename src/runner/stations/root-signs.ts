import { randomUUID } from 'node:crypto'
import { open, readdir, readFile, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { temporaryPrefix } from '@/files/placing'

/*
 * How a station knows that a folder is the one that the main machine means: by a small file in it, written there. A
 * folder that the main machine can't write to is known by what lies in it.
 */

/** Begins like everything of ours in people's folders: scans and folder views pass it over. */
export const signName = `${temporaryPrefix}station-sign`

const pattern = /^[0-9a-f-]{36}$/
/** Entries by which a folder that can't be written to is known. */
const maxEntries = 50

/** The main machine's: the sign of a folder, written if there is none. @throws for a folder that can't be read */
export async function signOf(folder: string): Promise<string> {
  return (await written(folder)) ?? (await writeSign(folder)) ?? (await entriesOf(folder))
}

/** A station's: whether a folder bears a sign. */
export async function bears(folder: string, sign: string): Promise<boolean> {
  try {
    return (await written(folder)) === sign || (sign.startsWith(entriesPrefix) && (await entriesOf(folder)) === sign)
  } catch {
    return false
  }
}

async function written(folder: string): Promise<string | undefined> {
  const said = await readFile(join(folder, signName), 'utf8').catch(() => '')
  return pattern.test(said) ? said : undefined
}

async function writeSign(folder: string): Promise<string | undefined> {
  const sign = randomUUID()
  try {
    const file = await open(join(folder, signName), 'wx', 0o644)
    await file.writeFile(sign).finally(() => file.close())
    return sign
  } catch {
    // Somebody else may have been faster; where nothing can be written there is no sign.
    return written(folder)
  }
}

const entriesPrefix = 'entries:'

async function entriesOf(folder: string): Promise<string> {
  const names = (await readdir(folder)).filter((name) => !name.startsWith(temporaryPrefix)).sort()
  const facts = await Promise.all(
    names.slice(0, maxEntries).map(async (name) => {
      const { size, mtimeMs } = await stat(join(folder, name))
      return [name, size, Math.floor(mtimeMs / 1000)]
    }),
  )
  return `${entriesPrefix}${JSON.stringify([names.length, facts])}`
}
