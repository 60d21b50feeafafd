import { realpathSync } from 'node:fs'
import { basename, dirname, isAbsolute, join, resolve, sep } from 'node:path'
import { AppError } from '@/base/errors'

/**
 * The folders that pictures may be read from and written to, and the one place that holds every path to them.
 * A path is judged by where it really leads: links are followed before it is compared. The disk is asked only when a
 * path is judged, and anew each time for roots that were not there: where nothing is judged, a dead disk holds nobody up.
 */
export class Roots {
  private readonly known = new Map<string, string>()

  /** `ours`: folders of the application itself that hold pictures, allowed but not offered. */
  constructor(
    readonly paths: readonly string[],
    private readonly ours: readonly string[] = [],
  ) {}

  /** All folders, for whoever judges paths elsewhere. */
  get all(): readonly string[] {
    return [...this.paths, ...this.ours]
  }

  /**
   * The real, absolute form of a path under a root. The path itself need not exist yet.
   * @throws AppError `outsideRoots`
   */
  check(path: string): string {
    if (!isAbsolute(path) || path.includes('\0')) throw new AppError('outsideRoots', { path })
    const real = realOfNearest(resolve(path))
    if (!this.holds(real)) throw new AppError('outsideRoots', { path })
    return real
  }

  allows(path: string): boolean {
    try {
      this.check(path)
      return true
    } catch {
      return false
    }
  }

  /** Whether a real path lies under a root. */
  holds(real: string): boolean {
    return this.all.some((root) => isUnder(real, this.realRoot(root)))
  }

  private realRoot(root: string): string | undefined {
    const known = this.known.get(root)
    if (known) return known
    try {
      const real = realpathSync(root)
      this.known.set(root, real)
      return real
    } catch {
      return undefined
    }
  }
}

/** Whether a path is a folder or lies in it; both real. */
export const isUnder = (path: string, folder: string | undefined): boolean =>
  folder !== undefined && (path === folder || path.startsWith(folder.endsWith(sep) ? folder : folder + sep))

/** Follows links in the part of the path that exists and appends the rest. */
export function realOfNearest(path: string): string {
  try {
    return realpathSync(path)
  } catch {
    const parent = dirname(path)
    return parent === path ? path : join(/* turbopackIgnore: true */ realOfNearest(parent), basename(path))
  }
}
