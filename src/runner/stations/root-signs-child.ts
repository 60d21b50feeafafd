import { realpath } from 'node:fs/promises'
import { serveJobs } from '@/processes/serve'
import type { SharedRoot } from './messages'
import { bears, signOf } from './root-signs'

/*
 * Looks at shared folders, in a process of its own: a disk that has gone away keeps whoever asks it, and nobody else.
 */

/** A folder that should bear a sign. */
export interface SignedFolder {
  readonly path: string
  readonly sign: string
}

/** What is asked: folders with their signs, or which folders bear the signs they should. */
export type RootQuestion =
  | { readonly kind: 'roots'; readonly folders: readonly string[] }
  | { readonly kind: 'bear'; readonly folders: readonly SignedFolder[] }

const rootOf = async (path: string): Promise<SharedRoot> => ({ path, real: await realpath(path), sign: await signOf(path) })

serveJobs((asked) => {
  const question = asked as RootQuestion
  // A folder that is not there is shared by nobody until it is back.
  if (question.kind === 'roots') return Promise.all(question.folders.map((folder) => rootOf(folder).catch(() => null)))
  return Promise.all(question.folders.map(({ path, sign }) => bears(path, sign)))
})
