import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { buffer } from 'node:stream/consumers'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import yazl from 'yazl'
import { AppError } from '@/base/errors'
import { writeMacroFile } from '@/macros/codec'
import { newStep } from '@/macros/step'
import { testApplication } from '../../tests/application'
import { bentCube } from '../../tests/assets'
import { exportBundle, importFile, readBundle } from './bundles'
import { keepBytes } from './kept-files'
import { keepMacro, shelf } from './macros'

const mark = readFileSync('demo/marks/tern-lane-mark.png')
const hashOf = (bytes: Buffer) => createHash('sha256').update(bytes).digest('hex')
const stamped = (value: string) => ({ name: 'Marked', notes: '', tags: ['web'], steps: [newStep('stamp-image', 's', { file: value })] })

async function zipOf(files: Record<string, Buffer | string>, more: (zip: yazl.ZipFile) => void = () => undefined): Promise<Buffer> {
  const zip = new yazl.ZipFile()
  for (const [name, content] of Object.entries(files)) zip.addBuffer(Buffer.from(content), name)
  more(zip)
  zip.end()
  return buffer(zip.outputStream)
}

/** A name that yazl itself refuses to write, put into the finished archive over one of the same length. */
const renamed = (zip: Buffer, from: string, to: string): Buffer => Buffer.from(zip.toString('latin1').replaceAll(from, to), 'latin1')

describe('bundles', () => {
  it('go from one shelf to another with their files', async () => {
    const from = testApplication()
    const macro = keepMacro(from.context, stamped(await keepBytes(from.context.dataFolder, mark, 'mark.png')))
    const bundle = await exportBundle(from.context, macro.id)
    const to = testApplication()
    const taken = await importFile(to.context, bundle, 'x.macro.zip')
    expect({ name: taken.name, tags: taken.tags, steps: taken.steps }).toEqual({ name: macro.name, tags: macro.tags, steps: macro.steps })
    expect([...(await readBundle(await exportBundle(to.context, taken.id), 'again')).keys()].sort()).toEqual([
      'Marked.macro.json',
      `files/${hashOf(mark)}`,
    ])
  })
  const good = writeMacroFile(stamped(`${hashOf(mark)}/mark.png`))
  const broken: readonly (readonly [string, () => Promise<Buffer>, RegExp])[] = [
    ['no macro', () => zipOf({ [`files/${hashOf(mark)}`]: mark }), /one macro file, not 0/],
    ['two macros', () => zipOf({ 'a.macro.json': good, 'b.macro.json': good }), /not 2/],
    ['a missing file', () => zipOf({ 'a.macro.json': good }), /mark\.png is missing/],
    ['another file under its name', () => zipOf({ 'a.macro.json': good, [`files/${hashOf(mark)}`]: 'other' }), /not what its name says/],
    ['a way out', async () => renamed(await zipOf({ 'a.macro.json': good, 'xx/evil': 'x' }), 'xx/evil', '../evil'), /can't be taken in/],
    [
      'an absolute name',
      async () => renamed(await zipOf({ 'a.macro.json': good, 'xetc/evil': 'x' }), 'xetc/evil', '/etc/evil'),
      /can't be taken in/,
    ],
    ['something that does not belong', () => zipOf({ 'a.macro.json': good, 'notes.txt': 'x' }), /does not belong/],
    [
      'a link',
      () =>
        zipOf({ 'a.macro.json': good }, (zip) => zip.addBuffer(Buffer.from('/etc/passwd'), `files/${hashOf(mark)}`, { mode: 0o120777 })),
      /is a link/,
    ],
    ['a bomb', () => zipOf({ 'a.macro.json': good, [`files/${hashOf(mark)}`]: Buffer.alloc(65 << 20) }), /more than 64 MB/],
    ['a macro that is none', () => zipOf({ 'a.macro.json': '{"format": "something"}' }), /can't be used/],
    ['an archive cut short', async () => (await zipOf({ 'a.macro.json': good })).subarray(0, 60), /can't be taken in/],
  ]
  it.each(broken)('with %s are refused, and nothing is kept', async (_, make, sentence) => {
    const { context } = testApplication()
    const before = shelf(context, []).length
    await expect(importFile(context, await make(), 'broken.zip')).rejects.toThrow(sentence)
    expect(shelf(context, []).length).toBe(before)
  })
  it('of any bytes are answered with an error of the table', async () => {
    const { context } = testApplication()
    const zip = await zipOf({ 'a.macro.json': good, [`files/${hashOf(mark)}`]: mark })
    await fc.assert(
      fc.asyncProperty(fc.nat(zip.length - 1), fc.nat(255), async (at, value) => {
        const bytes = Buffer.from(zip)
        bytes[at] = value
        await importFile(context, bytes, 'fuzzed.zip').catch((error) => expect(error).toBeInstanceOf(AppError))
      }),
      { numRuns: 60 },
    )
  })
  it('a look becomes a macro of one step, a broken one an error', async () => {
    const { context } = testApplication()
    const macro = await importFile(context, Buffer.from(bentCube(3)), 'Warm evening.cube')
    expect(macro).toMatchObject({ name: 'Warm evening', tags: ['look'], steps: [{ operation: 'look-table' }] })
    await expect(importFile(context, Buffer.from('LUT_3D_SIZE x'), 'bad.cube')).rejects.toThrow('bad.cube')
  })
  it('a plain macro file is taken in too', async () => {
    const { context } = testApplication()
    expect(await importFile(context, Buffer.from(writeMacroFile({ ...stamped(''), steps: [] })), 'a.json')).toMatchObject({
      name: 'Marked',
    })
  })
})
