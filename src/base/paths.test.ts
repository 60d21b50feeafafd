import { expect, it } from 'vitest'
import { fileNameOf, folderOf } from './paths'

it.each([
  ['/a/b/c.jpg', '/a/b', 'c.jpg'],
  ['c.jpg', '', 'c.jpg'],
  ['/c.jpg', '', 'c.jpg'],
  ['/a/b/', '/a/b', ''],
])('%s lies in "%s" and is called "%s"', (path, folder, name) => expect([folderOf(path), fileNameOf(path)]).toEqual([folder, name]))
