import { chmodSync, mkdtempSync, readdirSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { scanIntake } from '@/files/scan'
import { mounted, unmount } from '../../../tests/mounts'
import { bears, signName, signOf } from './root-signs'

const folder = (): string => mkdtempSync(join(tmpdir(), 'copper-loop-sign-'))

describe('the sign of a shared folder', () => {
  it('is written once, and tells the folder from all others, empty ones too', async () => {
    const [one, other] = [folder(), folder()]
    const sign = await signOf(one)
    expect(await signOf(one)).toBe(sign)
    expect(readdirSync(one)).toEqual([signName])
    expect(await bears(one, sign)).toBe(true)
    expect(await bears(other, sign)).toBe(false)
    expect(await bears(join(one, 'gone'), sign)).toBe(false)
    expect(await signOf(other)).not.toBe(sign)
  })
  it('is passed over by whoever looks for pictures', async () => {
    const own = folder()
    await signOf(own)
    writeFileSync(join(own, 'a.jpg'), 'x')
    expect((await scanIntake({ folder: own, subfolders: true })).found.map(({ relativePath }) => relativePath)).toEqual(['a.jpg'])
  })
  it('is what lies in it, where nothing can be written', async () => {
    const own = folder()
    if (!mounted('-t', 'tmpfs', 'none', own)) return
    try {
      writeFileSync(join(own, 'a.jpg'), 'x')
      mounted('-o', 'remount,ro', own)
      const sign = await signOf(own)
      expect(sign).toMatch(/^entries:/)
      expect(await bears(own, sign)).toBe(true)
      expect(await bears(folder(), sign)).toBe(false)
      mounted('-o', 'remount,rw', own)
      writeFileSync(join(own, 'a.jpg'), 'xy')
      expect(await bears(own, sign)).toBe(false)
    } finally {
      unmount(own)
    }
  })
  it('is known where it can be read and not written', async () => {
    const own = folder()
    const sign = await signOf(own)
    chmodSync(own, 0o555)
    expect(await bears(own, sign)).toBe(true)
  })
})
