import { mkdtempSync, readdirSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
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
})
