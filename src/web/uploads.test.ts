import { mkdirSync, readdirSync } from 'node:fs'
import { expect, it } from 'vitest'
import { uploadsFolder } from '@/services/context'
import { testApplication } from '../../tests/application'
import { mounted, unmount } from '../../tests/mounts'
import { withUpload } from './uploads'

const bring = (bytes: number): Request => new Request('http://127.0.0.1/', { method: 'POST', body: new Uint8Array(bytes) })
const limits = { name: 'a.jpg', maxBytes: 2 ** 20 }

it('a file that the disk has no room for is refused in words, and leaves nothing', async () => {
  const { context } = testApplication()
  const folder = uploadsFolder(context.dataFolder)
  mkdirSync(folder, { recursive: true })
  if (!mounted('-t', 'tmpfs', '-o', 'size=64k', 'tmpfs', folder)) return
  try {
    const work = (): Promise<never> => Promise.reject(new Error('It arrived after all'))
    await expect(withUpload(context, bring(200_000), limits, work)).rejects.toThrow(
      /has no room left, and a\.jpg would come\. Free some space first\./,
    )
    expect(readdirSync(folder)).toEqual([])
    expect(await withUpload(context, bring(20_000), limits, async (path) => path.startsWith(folder))).toBe(true)
    expect(readdirSync(folder)).toEqual([])
  } finally {
    unmount(folder)
  }
})
