import { readFileSync } from 'node:fs'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { keepAll } from '@/jobs/metadata-policy'
import { heldBytes } from '../../tests/memory'
import { readFacts } from './facts'
import { metadataFor } from './metadata/metadata'

/** Bytes that each call leaves behind, once everything has been used for a while. */
async function leftPerCall(work: () => Promise<unknown>): Promise<number> {
  const calls = 400
  for (let i = 0; i < calls; i++) await work()
  const before = heldBytes()
  for (let i = 0; i < calls; i++) await work()
  return (heldBytes() - before) / calls
}

/* A run goes over thousands of pictures, and a folder may hold a hundred thousand. */
describe('reading leaves nothing behind', () => {
  const path = 'demo/odd-files/SHELF.JPG'
  it('of a picture’s facts', async () => {
    expect(await leftPerCall(() => readFacts(path, path))).toBeLessThan(500)
  })
  it('of what it carries', async () => {
    const { exif, iptc, xmp } = await sharp(readFileSync(path)).metadata()
    const wishes = { ...keepAll, policy: 'rights' } as const
    expect(await leftPerCall(() => metadataFor({ exif, iptc, xmp }, wishes))).toBeLessThan(500)
  })
})
