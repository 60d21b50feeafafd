import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { checkMacro } from '@/macros/codec'
import { readBench } from '@/services/bench'
import { openContext } from '@/services/context'
import { allLoops, saveLoop } from '@/services/loops'
import { shelf } from '@/services/macros'
import { preflight } from '@/services/preflight/preflight'
import { touchUpsOf } from '@/services/touch-ups'
import { layDemo } from './lay-out'

describe('laying out the demo', () => {
  const data = mkdtempSync(join(tmpdir(), 'copper-loop-demo-'))
  const environment = { ...process.env, COPPER_LOOP_DATA: data, COPPER_LOOP_ROOTS: undefined }
  const lay = () => layDemo(environment, 'demo', 'src/store/migrations')

  it('puts pictures, a macro and a loop there, ready to run', async () => {
    await lay()
    const context = openContext(environment)
    expect(readdirSync(join(data, 'demo', 'pictures'))).toEqual(['kiln-and-yard', 'raw', 'tiles', 'vessels'])
    const loops = allLoops(context)
    const macros = shelf(context, loops)
    expect(macros[0]).toMatchObject({ name: 'Shop listing', usedBy: ['Vessels for the shop'], needsNewer: false })
    expect(macros.length).toBeGreaterThanOrEqual(12)
    for (const macro of macros) expect(() => checkMacro(macro)).not.toThrow()
    expect(readBench(context).samples).toHaveLength(6)
    const [loop] = loops
    const check = loop && (await preflight(context, loop))
    expect(check?.problems).toEqual([])
    expect(check?.pictures).toHaveLength(19)
    // Its proof is half done, and what is done holds in the macro: a lost step would be a problem above.
    expect(check?.pictures.filter(({ touchUp }) => touchUp)).toHaveLength(3)
    expect(touchUpsOf(context, loop?.id ?? '').filter(({ touchUp }) => touchUp.lookedAt)).toHaveLength(6)
    context.db.$client.close()
  })
  it('a second time leaves what a person has changed as it is, and brings back pictures that are gone', async () => {
    const context = openContext(environment)
    const [loop] = allLoops(context)
    if (loop) saveLoop(context, { ...loop, name: 'Mine now' })
    context.db.$client.close()
    rmSync(join(data, 'demo', 'pictures'), { recursive: true })
    await lay()
    const again = openContext(environment)
    expect(allLoops(again).map((each) => each.name)).toEqual(['Mine now', 'Raw files of the firing'])
    expect(existsSync(join(data, 'demo', 'pictures', 'vessels'))).toBe(true)
    again.db.$client.close()
  })
})
