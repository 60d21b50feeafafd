import type { PictureTask } from '@/runner/messages'

/** What is to be done to a picture, for tests to which only its paths matter. */
export const pictureTask = (part: Partial<PictureTask> = {}): PictureTask => ({
  runId: 'run',
  itemId: 1,
  token: 1,
  damaged: 'fail',
  sourcePath: '/a.jpg',
  sizeBytes: 1,
  modifiedMs: 1,
  steps: [],
  macros: [],
  targets: [],
  ...part,
})
