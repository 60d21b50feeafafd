import { mkdtempSync, readdirSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import opentype from 'opentype.js'
import { describe, expect, it } from 'vitest'
import { keptFileHash, keptFileName, keptFilePattern } from '@/pixels/kept-file'
import { bentCube } from '../../tests/assets'
import { keepFile, readAsset } from './kept-files'

const folder = (): string => mkdtempSync(join(tmpdir(), 'copper-loop-kept-'))
const mark = readFileSync('demo/marks/tern-lane-mark.png')

describe('kept files', () => {
  it('are kept by their content, once, and found again without the original', async () => {
    const at = folder()
    const value = await keepFile(at, mark, 'mark.png')
    expect(await keepFile(at, mark, '../other/name.png')).toBe(`${keptFileHash(value)}/.._other_name.png`)
    expect(value).toMatch(keptFilePattern)
    expect(readdirSync(at)).toEqual([keptFileHash(value)])
    const asset = await readAsset(at, keptFileHash(value), keptFileName(value))
    expect(asset).toMatchObject({ kind: 'image' })
    if (asset.kind === 'image') expect(asset.pixels.length).toBe(asset.size.width * asset.size.height * 4)
    const look = await keepFile(at, Buffer.from(bentCube(3)), 'bent.cube')
    expect(await readAsset(at, keptFileHash(look), 'bent.cube')).toMatchObject({ kind: 'look' })
  })
  it('are refused where they are neither picture nor look, and told by name where they are gone', async () => {
    const at = folder()
    await expect(keepFile(at, Buffer.from('hello'), 'note.png')).rejects.toThrow('note.png')
    await expect(keepFile(at, Buffer.from('LUT_3D_SIZE 2\n'), 'short.cube')).rejects.toThrow('entries')
    await expect(readAsset(at, 'f'.repeat(64), 'gone.png')).rejects.toThrow('gone.png')
    await expect(readAsset(at, '../../etc/passwd', 'x.png')).rejects.toThrow('x.png')
  })
  it('may be faces, which are read before they are kept', async () => {
    const at = folder()
    const face = readFileSync('node_modules/@fontsource/jetbrains-mono/files/jetbrains-mono-latin-400-normal.woff')
    const value = await keepFile(at, face, 'Own.WOFF')
    const asset = await readAsset(at, keptFileHash(value), 'Own.WOFF')
    expect(asset.kind === 'font' && Buffer.from(asset.bytes).equals(face)).toBe(true)
    await expect(keepFile(at, Buffer.from('no face at all'), 'x.otf')).rejects.toThrow(
      'it is no face of the kinds OpenType, TrueType, WOFF or WOFF2',
    )
    await expect(keepFile(at, mark, 'mark.ttf')).rejects.toThrow('no face')
    expect(readdirSync(at)).toHaveLength(1)

    // The same face as it is packed for the web: kept unpacked, with the same outlines (of some letters: the files are of two builds).
    const packed = readFileSync('node_modules/@fontsource/jetbrains-mono/files/jetbrains-mono-latin-400-normal.woff2')
    const unpacked = await keepFile(at, packed, 'own.woff2')
    expect(keptFileName(unpacked)).toBe('own.ttf')
    const read = await readAsset(at, keptFileHash(unpacked), 'own.ttf')
    if (asset.kind !== 'font' || read.kind !== 'font') throw new Error('These are no faces')
    const [first, second] = [asset, read].map(({ bytes }) => opentype.parse(bytes).getPath('M27', 0, 100, 80).toPathData(2))
    expect(second).toBe(first)
    await expect(keepFile(at, Buffer.from('wOF2 nonsense'), 'x.woff2')).rejects.toThrow('no face')
  })
})
