import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pause } from '../runner-process'
import { childrenOf } from '../web-process'
import type { Host } from './network'

export interface StationOptions {
  readonly redis: string
  /** As `--root` takes them. */
  readonly roots: readonly string[]
  readonly name?: string
  readonly workers?: number
  readonly main?: string
  readonly host?: Host
  readonly environment?: Readonly<Record<string, string>>
  /** Its own folder, to be started in again. */
  readonly folder?: string
}

/** A station as `./loop station` runs it, whose plug can be pulled. */
export class Station {
  readonly folder: string
  private child: ChildProcess | undefined
  private text = ''

  constructor(readonly options: StationOptions) {
    this.folder = options.folder ?? mkdtempSync(join(tmpdir(), 'copper-loop-station-'))
  }

  start(): void {
    const { redis, roots, name = 'one', workers = 1, main, host, environment } = this.options
    const words = ['.build/station.mjs', ...roots.flatMap((root) => ['--root', root]), '--name', name, '--workers', String(workers)]
    if (main) words.push('--main', main)
    const [program = '', ...rest] = [...(host?.before ?? []), process.execPath, ...words]
    const own = { COPPER_LOOP_REDIS: redis, COPPER_LOOP_DATA: this.folder, COPPER_LOOP_LOG: 'warn', ...environment }
    const child = spawn(program, rest, { env: { ...process.env, ...own }, stdio: ['ignore', 'pipe', 'pipe'] })
    for (const stream of [child.stdout, child.stderr])
      stream.on('data', (bytes) => {
        this.text += bytes
      })
    this.child = child
  }

  get said(): string {
    return this.text
  }

  /** Its process and those of its workers. */
  get pids(): readonly number[] {
    const { pid = 0 } = this.child ?? {}
    return [pid, ...childrenOf(pid).map((child) => child.pid)]
  }

  signal(signal: NodeJS.Signals): void {
    for (const pid of this.pids)
      try {
        process.kill(pid, signal)
      } catch {
        // It has just ended.
      }
  }

  /** Waits for its end. @returns its exit code */
  async ended(): Promise<number | null> {
    const { child } = this
    if (!child) return null
    if (child.exitCode === null && child.signalCode === null) await new Promise((resolve) => child.once('exit', resolve))
    return child.exitCode
  }

  /** Pulls the plug: process and workers at once. */
  async kill(): Promise<void> {
    if (!this.child || this.child.exitCode !== null || this.child.signalCode !== null) return
    this.signal('SIGKILL')
    await this.ended()
  }

  async says(words: RegExp, patienceMs = 60_000): Promise<void> {
    const end = Date.now() + patienceMs
    while (!words.test(this.text)) {
      if (Date.now() > end) throw new Error(`The station did not say ${words}: ${this.text}`)
      await pause(40)
    }
  }
}
