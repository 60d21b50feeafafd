import { isAbsolute, resolve } from 'node:path'
import { AppError, type ErrorReport } from '@/base/errors'
import type { PictureOutcome, PictureTask } from '../messages'
import type { SharedRoot } from './messages'

/** A folder of the main machine's, and where this station has it. */
export interface SharedFolder {
  readonly here: string
  readonly there: string
}

/** @returns what is meant by `/here=/there`, or by `/both`; nothing for what is neither */
export function sharedFolder(named: string): SharedFolder | undefined {
  const [here = '', there = here, ...more] = named.split('=')
  if (more.length > 0 || !isAbsolute(here) || !isAbsolute(there)) return undefined
  return { here: resolve(here), there: resolve(there) }
}

/** Turns paths of the main machine's into this station's and back. Only what lies in shared folders has a way to be said here. */
export class SharedFolders {
  private folders: readonly SharedFolder[]

  /** @param named as whoever started the station calls them: the main machine's by its Settings, or by where that leads there */
  constructor(private readonly named: readonly SharedFolder[]) {
    this.folders = named
  }

  /** Learns where the main machine's names lead there, since its pictures are called after that. */
  learn(roots: readonly SharedRoot[]): void {
    const realOf = new Map(roots.map(({ path, real }) => [path, real]))
    this.folders = this.named.map(({ here, there }) => ({ here, there: realOf.get(there) ?? there }))
  }

  /** As they are called here. */
  get here(): readonly string[] {
    return this.folders.map(({ here }) => here)
  }

  /** Where a folder of the main machine's is here, if it is shared as a whole. */
  hereOf({ path, real }: Pick<SharedRoot, 'path' | 'real'>): string | undefined {
    return this.named.find(({ there }) => there === path || there === real)?.here
  }

  /** @throws AppError `outsideRoots`, for paths in no shared folder, and for those that step out of one */
  toHere(path: string): string {
    const plain = isAbsolute(path) && resolve(path) === path
    const moved = plain ? movedPath(path, this.folders, 'there', 'here') : undefined
    if (moved === undefined) throw new AppError('outsideRoots', { path })
    return moved
  }

  /** What is in no shared folder stays as it is. */
  toThere(path: string): string {
    return movedPath(path, this.folders, 'here', 'there') ?? path
  }

  taskHere(task: PictureTask): PictureTask {
    return {
      ...task,
      sourcePath: this.toHere(task.sourcePath),
      targets: task.targets.map((target) => {
        const folder = this.toHere(target.delivery.folder)
        const path = this.toHere(target.path)
        if (!path.startsWith(`${folder}/`)) throw new AppError('outsideRoots', { path: target.path })
        return { ...target, path, delivery: { ...target.delivery, folder } }
      }),
    }
  }

  outcomeThere(outcome: PictureOutcome): PictureOutcome {
    return {
      ...outcome,
      error: outcome.error && this.reportThere(outcome.error),
      remarks: outcome.remarks?.map((remark) => this.reportThere(remark)),
      delivered: outcome.delivered.map((result) => ({ ...result, targetPath: this.toThere(result.targetPath) })),
    }
  }

  reportThere(report: ErrorReport): ErrorReport {
    const said = Object.entries(report.details).map(([key, value]) => [key, typeof value === 'string' ? this.wordsThere(value) : value])
    return { ...report, details: Object.fromEntries(said) }
  }

  /** Reasons may name a path somewhere within. */
  private wordsThere(words: string): string {
    if (isAbsolute(words)) return this.toThere(words)
    return this.folders.reduce((text, { here, there }) => text.replaceAll(`${here}/`, `${there}/`), words)
  }
}

/** A path moved from one end of the innermost folder that holds it to the other. */
function movedPath(path: string, folders: readonly SharedFolder[], from: keyof SharedFolder, to: keyof SharedFolder): string | undefined {
  const holding = folders
    .filter((folder) => path === folder[from] || path.startsWith(`${folder[from]}/`))
    .toSorted((a, b) => b[from].length - a[from].length)[0]
  return holding && `${holding[to]}${path.slice(holding[from].length)}`
}
