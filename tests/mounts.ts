import { execFileSync } from 'node:child_process'

/** Mounts, where the machine lets us; otherwise the promise is tested as far as it goes without. */
export function mounted(...args: readonly string[]): boolean {
  try {
    execFileSync('mount', args, { stdio: 'ignore' })
    return true
  } catch {
    console.warn(`mount ${args.join(' ')} is not allowed here: what needs it was left out`)
    return false
  }
}

export const unmount = (path: string): unknown => execFileSync('umount', ['-l', path])
