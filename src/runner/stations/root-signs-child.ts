import { serveJobs } from '@/processes/serve'
import type { SharedRoot } from './messages'
import { bears, signOf } from './root-signs'

/*
 * Looks at shared folders, in a process of its own: a disk that has gone away keeps whoever asks it, and nobody else.
 */

/** What is asked: the signs of folders, or which folders bear the signs they should. */
export type RootQuestion =
  | { readonly kind: 'signs'; readonly folders: readonly string[] }
  | { readonly kind: 'bear'; readonly roots: readonly SharedRoot[] }

serveJobs((asked) => {
  const question = asked as RootQuestion
  if (question.kind === 'signs') return Promise.all(question.folders.map((folder) => signOf(folder).catch(() => null)))
  return Promise.all(question.roots.map(({ path, sign }) => bears(path, sign)))
})
