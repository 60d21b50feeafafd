import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Redis } from 'ioredis'
import { freePort } from './free-port'
import { ended } from './runner-process'

export interface RedisOptions {
  /** Writes down each change before it answers, so that nothing is lost when it is killed. */
  readonly keeps?: boolean
  readonly password?: string
  /** Key and certificate: then it takes encrypted connections alone. */
  readonly tls?: { readonly key: string; readonly certificate: string }
  /** The address that it listens on. */
  readonly bind?: string
}

/** Debian's redis-server on a port of its own, which may be killed and started anew. */
export class RedisServer {
  private child: ChildProcess | undefined
  private readonly folder = mkdtempSync(join(tmpdir(), 'copper-loop-redis-'))

  private constructor(
    readonly port: number,
    private readonly options: RedisOptions,
  ) {}

  static async start(options: RedisOptions = {}): Promise<RedisServer> {
    const server = new RedisServer(await freePort(), options)
    await server.begin()
    return server
  }

  /** Where this machine finds it. */
  get url(): string {
    const { password, tls } = this.options
    return `redis${tls ? 's' : ''}://${password ? `:${password}@` : ''}127.0.0.1:${this.port}`
  }

  async begin(): Promise<void> {
    const { keeps, password, tls, bind = '127.0.0.1' } = this.options
    const words = [
      tls ? '--tls-port' : '--port',
      String(this.port),
      '--bind',
      bind,
      '--dir',
      this.folder,
      '--save',
      '',
      '--appendonly',
      keeps ? 'yes' : 'no',
    ]
    if (keeps) words.push('--appendfsync', 'everysec')
    if (tls) words.push('--port', '0', '--tls-cert-file', tls.certificate, '--tls-key-file', tls.key, '--tls-auth-clients', 'no')
    if (password) words.push('--requirepass', password)
    if (bind !== '127.0.0.1' && !password) words.push('--protected-mode', 'no')
    this.child = spawn('redis-server', words, { stdio: 'ignore' })
    const own = tls && { tls: { ca: readFileSync(tls.certificate) } }
    const asking = new Redis(this.url, { retryStrategy: () => 30, maxRetriesPerRequest: null, ...own })
    asking.on('error', () => undefined)
    await asking.ping()
    asking.disconnect()
  }

  async kill(): Promise<void> {
    const { child } = this
    if (!child) return
    child.kill('SIGKILL')
    await ended(child)
    this.child = undefined
  }

  /** Loses what it had written down. Not while it runs. */
  forget(): void {
    for (const name of readdirSync(this.folder)) rmSync(join(this.folder, name), { recursive: true })
  }

  async close(): Promise<void> {
    await this.kill()
    rmSync(this.folder, { recursive: true, force: true })
  }
}
