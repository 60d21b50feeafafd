import { execFileSync } from 'node:child_process'

const run = (...words: readonly string[]): void => void execFileSync('ip', words, { stdio: 'ignore' })

/** A machine of its own on this one: a network namespace with one cable to it, which can be pulled. */
export class Host {
  private constructor(private readonly number: number) {}

  /** @returns nothing where the machine does not let us */
  static make(number: number): Host | undefined {
    const host = new Host(number)
    try {
      host.remove()
      run('netns', 'add', host.name)
      run('link', 'add', host.cable, 'type', 'veth', 'peer', 'name', 'cable', 'netns', host.name)
      run('addr', 'add', `${host.mainAddress}/24`, 'dev', host.cable)
      run('link', 'set', host.cable, 'up')
      run('-n', host.name, 'addr', 'add', `10.213.${number}.2/24`, 'dev', 'cable')
      run('-n', host.name, 'link', 'set', 'cable', 'up')
      run('-n', host.name, 'link', 'set', 'lo', 'up')
      return host
    } catch {
      console.warn('Network namespaces are not allowed here: all stations share one network')
      host.remove()
      return undefined
    }
  }

  private get name(): string {
    return `copper-loop-${this.number}`
  }

  private get cable(): string {
    return `copper-cable-${this.number}`
  }

  /** Where this host finds the main machine. */
  get mainAddress(): string {
    return `10.213.${this.number}.1`
  }

  /** What stands before a command for it to run on this host. */
  get before(): readonly string[] {
    return ['ip', 'netns', 'exec', this.name]
  }

  setCable(isIn: boolean): void {
    run('link', 'set', this.cable, isIn ? 'up' : 'down')
  }

  remove(): void {
    for (const words of [
      ['link', 'del', this.cable],
      ['netns', 'del', this.name],
    ])
      try {
        run(...words)
      } catch {
        // It is not there.
      }
  }
}
