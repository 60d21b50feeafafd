import { linkSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, renameSync, statSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { clearUnfinished, type PlaceOptions, placeFile, temporaryName, temporaryPrefix } from './placing'

/* Placing at the moments in between: links that fail, folders that move, tries that were cut off. */

type Link = (from: string, to: string) => Promise<void>
/** What a test does in the place of making a link. */
let linking: ((link: Link, from: string, to: string) => Promise<void>) | undefined
vi.mock('node:fs/promises', async (load) => {
  const real = await load<typeof import('node:fs/promises')>()
  const link = (from: string, to: string): Promise<void> => (linking ? linking(real.link as Link, from, to) : real.link(from, to))
  return { ...real, link }
})

const bytes = Buffer.from('a whole picture')
const attempt = { runId: 'run', resultId: 1, token: 3 }
let parent: string
let base: string
beforeEach(() => {
  linking = undefined
  parent = mkdtempSync(join(tmpdir(), 'copper-loop-place-'))
  base = join(parent, 'out')
  mkdirSync(base)
})
const place = (name: string, part: Partial<PlaceOptions> = {}) => placeFile(bytes, { base, target: join(base, name), attempt, ...part })

describe('placing a file', () => {
  it('leaves nothing behind in a folder that is moved between the link and the end', async () => {
    linking = async (link, from, to) => {
      await link(from, to)
      renameSync(base, join(parent, 'away'))
    }
    expect(await place('c.jpg')).toBe('written')
    expect(readdirSync(join(parent, 'away'))).toEqual(['c.jpg'])
  })

  it('never writes into what an earlier try left: that may be another name of the delivered file', async () => {
    const delivered = join(base, 'c.jpg')
    writeFileSync(delivered, bytes)
    // The earlier try was cut off between giving the file its name and taking the temporary one away.
    for (const token of [1, 2, 3]) linkSync(delivered, join(base, temporaryName({ ...attempt, token })))
    const { ino } = statSync(delivered)
    await expect(place('other.jpg', {})).resolves.toBe('written')
    expect(readFileSync(delivered)).toEqual(bytes)
    expect(statSync(delivered)).toMatchObject({ ino, nlink: 1 })
    expect(readdirSync(base).sort()).toEqual(['c.jpg', 'other.jpg'])
  })

  describe('where there are no links', () => {
    const refused = async (): Promise<never> => {
      throw Object.assign(new Error('no links here'), { code: 'EPERM' })
    }
    beforeEach(() => {
      linking = refused
    })
    it('takes the name first, and never another’s', async () => {
      expect(await place('c.jpg')).toBe('written')
      writeFileSync(join(base, 'd.jpg'), '')
      await expect(place('d.jpg')).rejects.toMatchObject({ code: 'deliveryExists' })
      expect(readdirSync(base).sort()).toEqual(['c.jpg', 'd.jpg'])
      expect(readFileSync(join(base, 'c.jpg'))).toEqual(bytes)
    })
    it('takes over the name that an earlier try of the same result had taken, and no other’s', async () => {
      writeFileSync(join(base, 'c.jpg'), 'Copper Loop writes a picture here: run-1\n')
      expect(await place('c.jpg')).toBe('written')
      expect(readFileSync(join(base, 'c.jpg'))).toEqual(bytes)
      writeFileSync(join(base, 'd.jpg'), 'Copper Loop writes a picture here: run-2\n')
      await expect(place('d.jpg')).rejects.toMatchObject({ code: 'deliveryExists' })
    })
  })

  it.each([
    ['a folder below the delivery’s that is a link', () => symlinkSync(join(parent, 'originals'), join(base, 'web')), 'web/c.jpg'],
    [
      'a delivery folder that was exchanged for a link',
      () => {
        renameSync(base, join(parent, 'moved'))
        symlinkSync(join(parent, 'originals'), base)
      },
      'c.jpg',
    ],
    [
      'a link above the delivery’s folder',
      () => {
        renameSync(base, join(parent, 'moved'))
        mkdirSync(join(parent, 'originals', 'deep'))
        symlinkSync(join(parent, 'originals', 'deep'), base)
      },
      'a/b/c.jpg',
    ],
  ])('writes nothing through %s', async (_, exchange, name) => {
    mkdirSync(join(parent, 'originals'))
    exchange()
    await expect(place(name)).rejects.toMatchObject({ code: 'deliveryLeadsOut' })
    const written = readdirSync(join(parent, 'originals'), { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile())
    expect(written).toEqual([])
  })
  it('reads nothing through a link that has its name', async () => {
    writeFileSync(join(parent, 'secret'), bytes)
    symlinkSync(join(parent, 'secret'), join(base, 'c.jpg'))
    await expect(place('c.jpg')).rejects.toMatchObject({ code: 'deliveryExists' })
    expect(readFileSync(join(parent, 'secret'))).toEqual(bytes)
  })
})

describe('what tries of a run left', () => {
  it('is cleared of one result, or of all, and of no other run', async () => {
    mkdirSync(join(base, 'deep'))
    const leave = (folder: string, runId: string, resultId: number, token: number): void =>
      writeFileSync(join(base, folder, temporaryName({ runId, resultId, token })), 'x')
    leave('.', 'run', 1, 1)
    leave('.', 'run', 12, 1)
    leave('deep', 'run', 2, 4)
    leave('deep', 'other', 2, 4)
    await clearUnfinished(base, [base], 'run', 1)
    expect(readdirSync(base).filter((name) => name.startsWith(temporaryPrefix))).toEqual([
      temporaryName({ runId: 'run', resultId: 12, token: 1 }),
    ])
    await clearUnfinished(base, [base, join(base, 'deep'), join(base, 'gone')], 'run')
    expect(readdirSync(base)).toEqual(['deep'])
    expect(readdirSync(join(base, 'deep'))).toEqual([temporaryName({ runId: 'other', resultId: 2, token: 4 })])
  })
})
