import { cpSync, statSync, utimesSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { AppError } from '@/base/errors'
import { longEdge } from '@/base/geometry'
import { type PixelHeader, unframed } from '@/contract/framing'
import { fillIntake, testApplication } from '../../tests/application'
import { cacheFolder } from './cache'
import { listFolder, listPlaces } from './folders'
import { sourcePixels, thumbnailFile } from './pictures'

describe('folders and pictures', () => {
  it('list roots, then what is in them, with counts', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    expect(await listFolder(app.context, undefined)).toMatchObject({ path: '', folders: [{ path: app.root, folders: 1, pictures: 0 }] })
    const root = await listFolder(app.context, app.root)
    expect(root).toMatchObject({ parent: null, folders: [{ name: 'intake', pictures: 2 }] })
    expect((await listFolder(app.context, app.intake)).pictures.map((picture) => picture.name)).toEqual(['picture-1.jpg', 'picture-2.jpg'])
    for (const name of ['a.psd', 'b.PSD', 'notes', '.hidden']) writeFileSync(join(app.intake, name), '')
    expect((await listFolder(app.context, app.intake)).others).toEqual([
      { kind: 'PSD', count: 2 },
      { kind: 'without an ending', count: 1 },
    ])
  })
  it('list folders of the machine for whoever names roots, and no file of theirs; nothing where the environment names them', async () => {
    const app = testApplication()
    fillIntake(app, 2)
    writeFileSync(join(app.root, 'private.txt'), '')
    expect(await listPlaces(app.root, false)).toMatchObject({
      parent: dirname(app.root),
      folders: [{ name: 'intake', pictures: 2 }],
      pictures: [],
      others: [],
    })
    expect((await listPlaces(undefined, false)).folders.map(({ path }) => path)).toContain('/')
    expect((await listPlaces('/', false)).parent).toBeNull()
    await expect(listPlaces(app.root, true)).rejects.toMatchObject({ report: { code: 'outsideRoots' } })
    await expect(listPlaces('relative', false)).rejects.toBeInstanceOf(AppError)
    await expect(listPlaces(join(app.root, 'gone'), false)).rejects.toMatchObject({ report: { code: 'folderMissing' } })
  })
  it.each(['/etc', '/', '../..', '/proc/self'])('refuse %s', async (path) => {
    const app = testApplication()
    await expect(listFolder(app.context, path)).rejects.toBeInstanceOf(AppError)
    await expect(sourcePixels(app.context, path)).rejects.toBeInstanceOf(AppError)
    await expect(thumbnailFile(app.context, path, 160)).rejects.toBeInstanceOf(AppError)
  })
  it('give the full pixels with what they mean, for the bench', async () => {
    const app = testApplication()
    cpSync('demo/odd-files/sixteen-bit.tif', join(app.intake, 'x.tif'))
    const body = await sourcePixels(app.context, join(app.intake, 'x.tif'))
    const length = new DataView(body.buffer).getUint32(0, true)
    const header = JSON.parse(new TextDecoder().decode(body.subarray(4, 4 + length)))
    expect(header).toMatchObject({ bits: 16, size: { width: 900, height: 600 } })
    expect((4 + length) % 4).toBe(0)
    expect(body.length - 4 - length).toBe(900 * 600 * 3 * 2)
  })
  it('decode a raw file once for all small sizes it is wanted in, once for each larger one, and anew once it is another', async () => {
    const app = testApplication()
    const path = join(app.intake, 'x.dng')
    cpSync('demo/raw/TLK27_0402.dng', path)
    utimesSync(path, 1000, 1000)
    const [first, second] = await Promise.all([sourcePixels(app.context, path, 160), sourcePixels(app.context, path, 640)])
    const { size } = statSync(path)
    // The same size and time with nothing in it: whoever decoded it again would refuse it.
    writeFileSync(path, Buffer.alloc(size))
    utimesSync(path, 1000, 1000)
    expect(await sourcePixels(app.context, path, 160)).toEqual(first)
    expect(await sourcePixels(app.context, path, 640)).toEqual(second)
    const sizes = [first, second, await sourcePixels(app.context, path, 320)].map(({ buffer }) => unframed<PixelHeader>(buffer).header.size)
    expect(sizes.map(longEdge)).toEqual([160, 640, 320])
    await expect(sourcePixels(app.context, path, 800)).rejects.toBeInstanceOf(AppError)
    utimesSync(path, 2000, 2000)
    await expect(sourcePixels(app.context, path, 160)).rejects.toBeInstanceOf(AppError)
  })
  it('decode a raw file though nothing of it can be kept', async () => {
    const app = testApplication()
    const path = join(app.intake, 'x.dng')
    cpSync('demo/raw/TLK27_0402.dng', path)
    // A file where the folder would be.
    writeFileSync(cacheFolder(app.context.dataFolder), '')
    expect((await sourcePixels(app.context, path, 160)).length).toBeGreaterThan(1000)
  })
  it('make small pictures once and keep them', async () => {
    const app = testApplication()
    fillIntake(app, 1)
    const path = join(app.intake, 'picture-1.jpg')
    const first = await thumbnailFile(app.context, path, 100)
    expect(await thumbnailFile(app.context, path, 100)).toEqual(first)
    const together = await Promise.all(Array.from({ length: 12 }, () => thumbnailFile(app.context, path, 640)))
    expect(new Set(together).size).toBe(1)
    await expect(thumbnailFile(app.context, join(app.intake, 'gone.jpg'), 100)).rejects.toMatchObject({ code: 'fileMissing' })
  })
})
