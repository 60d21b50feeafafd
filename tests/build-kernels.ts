import { execFileSync } from 'node:child_process'

/** What unit tests need of a build: the kernels and the faces. Seconds, and nothing where they are as they should be. */
export const setup = (): void => void execFileSync('./loop', ['build', 'kernels'], { stdio: 'inherit' })
