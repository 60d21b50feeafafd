import { createHash } from 'node:crypto'
import { once } from 'node:events'
import { access, mkdir, rename, writeFile } from 'node:fs/promises'
import http from 'node:http'
import https from 'node:https'
import { join } from 'node:path'
import { reasonOf } from '@/base/errors'
import { keptFileGreeting, keptFilePath } from '@/base/station-paths'
import { maxKeptBytes } from '@/files/kept-files'
import { keptFilesOf } from '@/macros/kept-files'
import type { Step } from '@/macros/step'
import { keptFileHash } from '@/pixels/kept-file'

const patienceMs = 30_000

/** Where files kept with macros are asked for. */
export interface KeptSource {
  readonly addresses: readonly string[]
  readonly secret: string
}

/** Files kept with macros, fetched from the main machine once each and kept by their content. */
export class StationKeptFiles {
  private readonly there = new Set<string>()
  private source: KeptSource = { addresses: [], secret: '' }

  constructor(readonly folder: string) {}

  askAt(source: KeptSource): void {
    this.source = source
  }

  /** Sees to it that all files that steps need are here. @throws Error that says why one could not be had */
  async ensure(steps: readonly Step[]): Promise<void> {
    for (const hash of new Set(keptFilesOf(steps).map(keptFileHash))) {
      if (this.there.has(hash)) continue
      const path = join(this.folder, hash)
      const isHere = await access(path).then(
        () => true,
        () => false,
      )
      if (!isHere) await this.keep(path, await this.fetch(hash))
      this.there.add(hash)
    }
  }

  /** Whether the main machine can be asked. @returns why not, in words */
  async problem(): Promise<string | undefined> {
    try {
      await this.ask(keptFileGreeting)
      return undefined
    } catch (error) {
      return reasonOf(error)
    }
  }

  private async fetch(hash: string): Promise<Buffer> {
    const bytes = await this.ask(hash)
    if (createHash('sha256').update(bytes).digest('hex') !== hash) throw new Error('what came is not the file that was asked for')
    return bytes
  }

  /** What the first of the main machine's addresses that answers has to say. */
  private async ask(name: string): Promise<Buffer> {
    const { addresses, secret } = this.source
    let problem = 'it has named no address'
    for (const address of addresses) {
      try {
        return await bytesAt(`${address}${keptFilePath}${name}`, secret)
      } catch (error) {
        problem = `${address}: ${reasonOf(error)}`
      }
    }
    throw new Error(problem)
  }

  private async keep(path: string, bytes: Buffer): Promise<void> {
    await mkdir(this.folder, { recursive: true })
    const part = `${path}.${process.pid}.part`
    await writeFile(part, bytes)
    await rename(part, path)
  }
}

/** Asks by plain HTTP: the web's own way of asking leaves out ports that browsers must not use, and people choose them. */
async function bytesAt(url: string, secret: string): Promise<Buffer> {
  const signal = AbortSignal.timeout(patienceMs)
  const asked = (url.startsWith('https:') ? https : http).get(url, { headers: { authorization: `Bearer ${secret}` }, signal })
  const [answer] = (await once(asked, 'response', { signal })) as [http.IncomingMessage]
  const parts: Buffer[] = []
  let size = 0
  for await (const part of answer as AsyncIterable<Buffer>) {
    size += part.length
    if (size > maxKeptBytes) throw new Error('it sends more than any kept file has')
    parts.push(part)
  }
  const { statusCode = 0 } = answer
  if (statusCode < 200 || statusCode > 299) throw new Error(`it answers ${statusCode}`)
  return Buffer.concat(parts)
}
