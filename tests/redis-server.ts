import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Redis } from 'ioredis'
import { ended } from './runner-process'

/** A port of this machine that nobody listens on. */
export const freePort = (): Promise<number> =>
  new Promise((resolve, reject) => {
    const probe = createServer()
    probe.once('error', reject)
    probe.listen(0, '127.0.0.1', () => {
      const address = probe.address()
      probe.close(() => (address && typeof address === 'object' ? resolve(address.port) : reject(new Error('no port'))))
    })
  })

export interface RedisOptions {
  /** Writes down each change, so that nothing is lost when it is killed. */
  readonly keeps?: boolean
  readonly password?: string
  /** The address that it listens on. */
  readonly bind?: string
  /** What stands before the command, as for a network of its own. */
  readonly before?: readonly string[]
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

  get url(): string {
    const { password, bind = '127.0.0.1' } = this.options
    return `redis://${password ? `:${password}@` : ''}${bind}:${this.port}`
  }

  async begin(): Promise<void> {
    const { keeps, password, bind = '127.0.0.1', before = [] } = this.options
    const words = ['--port', String(this.port), '--bind', bind, '--dir', this.folder, '--save', '', '--appendonly', keeps ? 'yes' : 'no']
    if (keeps) words.push('--appendfsync', 'always')
    if (password) words.push('--requirepass', password)
    if (bind !== '127.0.0.1' && !password) words.push('--protected-mode', 'no')
    const [program = '', ...rest] = [...before, 'redis-server', ...words]
    this.child = spawn(program, rest, { stdio: 'ignore' })
    if (before.length > 0) return
    const asking = new Redis(this.url, { retryStrategy: () => 30, maxRetriesPerRequest: null })
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

  async close(): Promise<void> {
    await this.kill()
    rmSync(this.folder, { recursive: true, force: true })
  }
}
