import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { sha256 } from '@/files/placing'
import { newStep } from '@/macros/step'
import { keptFileHash } from '@/pixels/kept-file'
import { keepBytes } from '@/services/kept-files'
import { startRun } from '@/services/runs/start'
import { runSummary } from '@/services/runs/summary'
import { insertMacro } from '@/store/macros'
import { listItems } from '@/store/runs'
import { testApplication, testLoop } from '../application'
import { seeded } from '../pictures'
import { isDone, launchingRunners, pause, runUntil } from '../runner-process'
import { Host } from './network'
import type { Station } from './station-process'
import { fillDiffering, Studio } from './studio'

/*
 * Three stations, each on a network of its own, whose plugs are pulled at random, and so are those of Redis and of the
 * main machine: everything is delivered, once, whole, and the same as on one machine.
 */

/** What can be pulled: Redis as it keeps what it was told, Redis with all it held, the main machine's runner, all of that machine, one of three stations. */
export type Plug = 'R' | 'F' | 'M' | 'A' | '0' | '1' | '2'

const filesOf = (folder: string): Record<string, string> =>
  Object.fromEntries(readdirSync(folder).map((name) => [name, sha256(readFileSync(join(folder, name)))]))

/** Everything is delivered by three stations, however often plugs are pulled, in an order that a seed decides. */
export function describePulledPlugs(pictureCount: number, plugs: readonly Plug[]): void {
  describe(`three stations, ${pictureCount} pictures, ${plugs.length} plugs pulled`, () => {
    let hosts: readonly (Host | undefined)[] = []
    beforeAll(() => {
      hosts = [1, 2, 3].map((number) => Host.make(number))
    })
    afterAll(() => {
      for (const host of hosts) host?.remove()
    })
    const closing: (() => unknown)[] = []
    afterEach(async () => {
      for (const close of closing.splice(0).reverse()) await close()
    })
    const launch = launchingRunners()

    it('deliver everything once and whole, whatever plug is pulled, with the bytes of a run on one machine', async () => {
      const app = testApplication([])
      const stamp = await keepBytes(
        app.context.dataFolder,
        await sharp('demo/pictures/vessels/TLK27_0421.jpg').resize(80).png().toBuffer(),
        'stamp.png',
      )
      const steps = [
        newStep('exposure', 'a', { exposureEv: 0.2 }),
        newStep('resize', 'b', { lengthPx: 400 }),
        newStep('stamp-image', 'c', { file: stamp }),
      ]
      insertMacro(app.context.db, { id: 'stamped', name: 'Stamped', notes: '', tags: [], steps }, Date.now())
      await fillDiffering(app, pictureCount)
      const originals = filesOf(app.intake)

      // Alone, for comparison.
      const macros = [{ macroId: 'stamped', revision: null }]
      const alone = testLoop(app, { macros }, { folder: join(app.root, 'alone') })
      const runner = launch(app)
      await runUntil(app, (await startRun(app.context, alone)).id, isDone)
      runner.kill('SIGKILL')

      const studio = await Studio.open(app)
      closing.push(() => studio.close())
      const stations = hosts.map((host, i) => studio.station({ name: `station ${i + 1}`, host }))
      for (const station of stations) await station.says(/is at work/)

      const loop = testLoop(app, { macros }, { folder: join(app.root, 'shared') })
      const run = await startRun(app.context, loop)
      await runUntil(app, run.id, ({ totals }) => totals.done > 3)
      const random = seeded(20)
      for (const plug of plugs.toSorted(() => random() - 0.5)) {
        const { totals } = runSummary(app.context, run.id)
        await runUntil(app, run.id, (state) => state.totals.done >= Math.min(pictureCount, totals.done + 5))
        await pause(random() * 300)
        await pull(plug, studio)
      }
      const done = await runUntil(app, run.id, isDone, 200_000)
      expect(done.totals).toMatchObject({ done: pictureCount, failed: 0, skipped: 0 })
      const items = listItems(app.context.db, run.id)
      expect(items.every(({ state, sourceUnchanged }) => state === 'done' && sourceUnchanged)).toBe(true)
      expect(new Set(items.flatMap(({ results }) => results.map(({ targetPath }) => targetPath))).size).toBe(pictureCount)
      // Nothing twice, nothing half: exactly these files, with these bytes.
      expect(filesOf(join(app.root, 'shared'))).toEqual(filesOf(join(app.root, 'alone')))
      expect(filesOf(app.intake)).toEqual(originals)
      for (const { folder } of stations) expect(readdirSync(join(folder, 'files'))).toEqual([keptFileHash(stamp)])
      for (const item of items) for (const result of item.results) expect(result.hash).toBe(sha256(readFileSync(result.targetPath)))
    })
  })
}

/** Pulls one of the plugs, and puts it back after a moment. */
async function pull(plug: Plug, studio: Studio): Promise<void> {
  const { server, application, stations } = studio
  if (plug === 'R' || plug === 'F') {
    await server.kill()
    if (plug === 'F') server.forget()
    await pause(400)
    await server.begin()
  } else if (plug === 'M') {
    // Its supervisor starts it anew.
    for (const pid of application.children('runner.mjs')) process.kill(pid, 'SIGKILL')
  } else if (plug === 'A') await studio.restartMain()
  else {
    const station = stations[Number(plug)] as Station
    await station.kill()
    station.start()
  }
}
