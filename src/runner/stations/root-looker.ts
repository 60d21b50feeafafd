import { Child } from '@/processes/child'
import type { SharedRoot } from './messages'
import type { RootQuestion, SignedFolder } from './root-signs-child'

/** A folder that gives no answer for so long is not there. */
const patienceMs = 5_000

/** Asks a child about shared folders, and replaces it where a disk holds it. */
export class RootLooker {
  private child: Child | undefined
  private ready: Promise<Child> | undefined

  constructor(private readonly modulePath: string) {}

  /** Folders that are there, with their signs. */
  async roots(folders: readonly string[]): Promise<readonly SharedRoot[]> {
    const found = await this.ask<readonly (SharedRoot | null)[]>({ kind: 'roots', folders }, () => [])
    return found.filter((root) => root !== null)
  }

  /** Whether each folder bears its sign. */
  bear(folders: readonly SignedFolder[]): Promise<readonly boolean[]> {
    return this.ask({ kind: 'bear', folders }, () => folders.map(() => false))
  }

  close(): void {
    this.child?.giveUp()
  }

  private async ask<T>(question: RootQuestion, otherwise: () => T): Promise<T> {
    try {
      return (await (await this.start()).run(question, { patienceMs })) as T
    } catch {
      return otherwise()
    }
  }

  private start(): Promise<Child> {
    this.ready ??= new Promise((resolve, reject) => {
      const lost = (): void => {
        this.ready = undefined
      }
      const child: Child = new Child(
        { modulePath: this.modulePath, maxHeapMb: 64 },
        (isReady) => {
          if (isReady) return resolve(child)
          lost()
          reject(new Error('The process that looks at folders could not be started'))
        },
        lost,
      )
      this.child = child
    })
    return this.ready
  }
}
