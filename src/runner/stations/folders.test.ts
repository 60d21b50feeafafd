import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { defaultDelivery } from '@/jobs/delivery'
import { pictureTask } from '../../../tests/picture-task'
import type { PictureTask } from '../messages'
import { SharedFolders, sharedFolder } from './folders'

const folders = new SharedFolders([
  { here: '/mnt/pictures', there: '/srv/pictures' },
  { here: '/mnt/pictures/new', there: '/srv/other' },
])

const task = (sourcePath: string, folder: string, path: string): PictureTask =>
  pictureTask({ sourcePath, targets: [{ resultId: 1, path, delivery: defaultDelivery('d', folder), replaces: null }] })

describe('a shared folder', () => {
  it.each([
    ['/a=/b', { here: '/a', there: '/b' }],
    ['/a', { here: '/a', there: '/a' }],
    ['/a/../c/=/b/', { here: '/c', there: '/b' }],
  ])('is named by %s', (named, expected) => expect(sharedFolder(named)).toEqual(expected))
  it.each(['', 'a=/b', '/a=b', '/a=/b=/c', '='])('is not named by %j', (named) => expect(sharedFolder(named)).toBeUndefined())
})

describe('paths of the main machine', () => {
  it.each([
    ['/srv/pictures', '/mnt/pictures'],
    ['/srv/pictures/a b/ü.jpg', '/mnt/pictures/a b/ü.jpg'],
    ['/srv/other/x.jpg', '/mnt/pictures/new/x.jpg'],
  ])('%s is %s here, and back', (there, here) => {
    expect(folders.toHere(there)).toBe(here)
    expect(folders.toThere(here)).toBe(there)
  })
  it.each([
    '/srv',
    '/srv/pictures2/a.jpg',
    '/srv/pictures/../secret',
    '/srv/pictures/./a',
    '/etc/passwd',
    'srv/pictures/a',
    '/srv/pictures//a',
  ])('%s has no place here', (path) => expect(() => folders.toHere(path)).toThrow(/lies outside the folders/))
  it('begin as its folders really lead, which a station learns by their names', () => {
    const own = new SharedFolders([{ here: '/mnt/p', there: '/srv/p' }])
    const root = { path: '/srv/p', real: '/data/volume/p', sign: 's' }
    expect(own.hereOf(root)).toBe('/mnt/p')
    own.learn([root])
    expect(own.toHere('/data/volume/p/a.jpg')).toBe('/mnt/p/a.jpg')
    expect(own.toThere('/mnt/p/a.jpg')).toBe('/data/volume/p/a.jpg')
    expect(() => own.toHere('/srv/p/a.jpg')).toThrow(/outside/)
    expect(new SharedFolders([{ here: '/mnt/p', there: '/data/volume/p' }]).hereOf(root)).toBe('/mnt/p')
  })
  it('never lead out of the shared folders, whatever they are', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom('srv', 'pictures', 'other', '..', '.', '', 'a', '\0', 'mnt')), (parts) => {
        try {
          expect(folders.toHere(`/${parts.join('/')}`)).toMatch(/^\/mnt\/pictures(\/|$)/)
        } catch (error) {
          expect(String(error)).toMatch(/outside/)
        }
      }),
    )
  })
  it('become this station’s in a task, all of them', () => {
    const { sourcePath, targets } = folders.taskHere(task('/srv/pictures/a.jpg', '/srv/other/out', '/srv/other/out/web/a.jpg'))
    expect([sourcePath, targets[0]?.path, targets[0]?.delivery.folder]).toEqual([
      '/mnt/pictures/a.jpg',
      '/mnt/pictures/new/out/web/a.jpg',
      '/mnt/pictures/new/out',
    ])
  })
  it.each([
    ['/etc/shadow', '/srv/other/out', '/srv/other/out/a.jpg'],
    ['/srv/pictures/a.jpg', '/root/.ssh', '/root/.ssh/a.jpg'],
    ['/srv/pictures/a.jpg', '/srv/other/out', '/srv/pictures/a.jpg'],
    ['/srv/pictures/a.jpg', '/srv/other/out', '/srv/other/out/../../pictures/a.jpg'],
  ])('are refused in a task that reads %s and writes into %s as %s', (...paths) =>
    expect(() => folders.taskHere(task(...paths))).toThrow(/outside/),
  )
  it('are said again in what came of it', () => {
    const outcome = folders.outcomeThere({
      state: 'failed',
      milliseconds: 1,
      error: {
        code: 'deliveryUnwritable',
        details: { path: '/mnt/pictures/out/a.jpg', reason: 'EACCES: /mnt/pictures/out/a.jpg is closed' },
      },
      remarks: [{ code: 'oneFrame', details: { path: '/mnt/pictures/new/b.gif', frames: 2 } }],
      delivered: [],
    })
    expect(outcome.error?.details).toEqual({ path: '/srv/pictures/out/a.jpg', reason: 'EACCES: /srv/pictures/out/a.jpg is closed' })
    expect(outcome.remarks?.[0]?.details).toEqual({ path: '/srv/other/b.gif', frames: 2 })
  })
})
