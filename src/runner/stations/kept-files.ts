import { createHash } from 'node:crypto'
import { access, mkdir, rename, writeFile } from 'node:fs/promises'
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
    const bytes = Buffer.from(await (await this.ask(hash)).arrayBuffer())
    if (bytes.length > maxKeptBytes || createHash('sha256').update(bytes).digest('hex') !== hash)
      throw new Error('what came is not the file that was asked for')
    return bytes
  }

  /** The first of the main machine's addresses that answers. */
  private async ask(name: string): Promise<Response> {
    const { addresses, secret } = this.source
    let problem = 'it has named no address'
    for (const address of addresses) {
      try {
        const headers = { authorization: `Bearer ${secret}` }
        const answer = await fetch(`${address}${keptFilePath}${name}`, {
          headers,
          redirect: 'error',
          signal: AbortSignal.timeout(patienceMs),
        })
        if (answer.ok) return answer
        problem = `${address} answers ${answer.status}`
      } catch (error) {
        problem = `${address}: ${reasonOf(error instanceof Error && error.cause ? error.cause : error)}`
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
