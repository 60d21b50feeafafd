import { execFileSync } from 'node:child_process'

/** What tests of the processes need: all of them as they are built. Nothing where that is as it should be. */
export const setup = (): void => void execFileSync('./loop', ['build'], { stdio: 'inherit' })
