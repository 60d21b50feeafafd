import { realpathSync } from 'node:fs'
import { basename, dirname, isAbsolute, join, resolve, sep } from 'node:path'
import { AppError } from '@/core/errors'

/**
 * The folders that pictures may be read from and written to, and the one place that holds every path to them.
 * A path is judged by where it really leads: links are followed before it is compared.
 */
export class Roots {
  private readonly real: readonly string[]

  /** `ours`: folders of the application itself that hold pictures, allowed but not offered. */
  constructor(
    readonly paths: readonly string[],
    ours: readonly string[] = [],
  ) {
    this.real = [...paths, ...ours].flatMap((path) => realOrNothing(path))
  }

  /**
   * The real, absolute form of a path under a root. The path itself need not exist yet.
   * @throws AppError `outsideRoots`
   */
  check(path: string): string {
    if (!isAbsolute(path) || path.includes('\0')) throw new AppError('outsideRoots', { path })
    const real = realOfNearest(resolve(path))
    if (!this.real.some((root) => real === root || real.startsWith(root.endsWith(sep) ? root : root + sep)))
      throw new AppError('outsideRoots', { path })
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
}

function realOrNothing(path: string): string[] {
  try {
    return [realpathSync(path)]
  } catch {
    return []
  }
}

/** Follows links in the part of the path that exists and appends the rest. */
function realOfNearest(path: string): string {
  try {
    return realpathSync(path)
  } catch {
    const parent = dirname(path)
    return parent === path ? path : join(realOfNearest(parent), basename(path))
  }
}
