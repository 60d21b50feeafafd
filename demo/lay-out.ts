import { cpSync, existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { defaultDelivery } from '@/jobs/delivery'
import { intakeOf, newLoop } from '@/jobs/loop'
import { type TouchUp, untouched } from '@/jobs/touch-up'
import { checkMacro } from '@/macros/codec'
import { newStep } from '@/macros/step'
import { type Context, dataFolderOf, openContext } from '@/services/context'
import { keepBytes } from '@/services/kept-files'
import { touchUpPicture } from '@/services/touch-ups'
import { layOnBench } from '@/store/bench'
import { saveLoop } from '@/store/loops'
import { findMacro, insertMacro } from '@/store/macros'
import { readSetting, writeSetting } from '@/store/settings'
import { demoMacros } from './macros'

/*
 * Lays out the demo in the data folder: the pictures of an invented pottery's firing, a dozen macros and one loop, ready
 * to run, with its proof half done. Done once; what a person has changed since stays as it is.
 */

const markName = 'tern-lane-mark.png'

/** Siblings that want different things of a macro: a red vase, a dark pot, one too bright, a tile, a tilted yard, fire. */
const samples = [
  'vessels/TLK27_0422.jpg',
  'vessels/TLK27_0421.jpg',
  'vessels/TLK27_0418.jpg',
  'tiles/TLK27_0430.jpg',
  'kiln-and-yard/TLK27_0410.jpg',
  'kiln-and-yard/TLK27_0403.jpg',
] as const

/** Lit otherwise before the macro, as *like its neighbours* finds it for these. */
const relit = (exposureEv: number): TouchUp => ({
  ...untouched,
  before: [newStep('exposure', 'proof-relit-light', { exposureEv })],
  lookedAt: true,
})

/** A proof half done: three found good, two brought among their neighbours, one framed so that nothing is cut. The rest is to be looked at. */
const proof: readonly (readonly [picture: string, touchUp: TouchUp])[] = [
  ['TLK27_0415.jpg', { ...untouched, lookedAt: true }],
  ['TLK27_0416.jpg', { ...untouched, lookedAt: true }],
  ['TLK27_0417.jpg', { ...untouched, lookedAt: true }],
  ['TLK27_0418.jpg', relit(-0.67)],
  ['TLK27_0421.jpg', relit(1)],
  [
    'TLK27_0441.jpg',
    { ...untouched, settings: [{ macroId: 'demo-shop-listing', stepId: 'square', settings: { positionXPercent: 54 } }], lookedAt: true },
  ],
]

async function layProof(context: Context, picture: (path: string) => string): Promise<void> {
  for (const [name, touchUp] of proof) {
    const edit = { loopId: shopLoop, sourcePath: picture(`vessels/${name}`), touchUp, version: 0 }
    // Where other folders than the demo's are named, there is nothing of the demo to look at.
    await touchUpPicture(context, edit).catch(() => undefined)
  }
}

const shopLoop = 'demo-shop'

export async function layDemo(environment: NodeJS.ProcessEnv, demoFolder: string, migrationsFolder: string): Promise<void> {
  const root = join(dataFolderOf(environment), 'demo')
  const picture = (path: string): string => join(root, 'pictures', path)
  if (!existsSync(join(root, 'pictures')))
    for (const part of ['pictures', 'odd-files', 'marks']) cpSync(join(demoFolder, part), join(root, part), { recursive: true })
  const raw = picture('raw')
  if (!existsSync(raw)) cpSync(join(demoFolder, 'raw'), raw, { recursive: true, filter: (path) => !path.endsWith('.json') })
  const { db, dataFolder, roots } = openContext(environment, migrationsFolder)
  if (!readSetting(db, 'demoLaid')) {
    let now = Date.now()
    const mark = await keepBytes(dataFolder, readFileSync(join(demoFolder, 'marks', markName)), markName)
    // Last laid stands first on the shelf.
    for (const { id, ...macro } of demoMacros(mark).reverse()) if (!findMacro(db, id)) insertMacro(db, { id, ...checkMacro(macro) }, now++)
    const delivery = { ...defaultDelivery('web', join(root, 'delivered', 'shop')), namePattern: 'tern-lane-{name:lower}' }
    saveLoop(
      db,
      newLoop(shopLoop, {
        name: 'Vessels for the shop',
        intake: intakeOf(join(root, 'pictures', 'vessels'), { subfolders: false }),
        macros: [{ macroId: 'demo-shop-listing', revision: null }],
        deliveries: [delivery],
      }),
      now,
    )
    saveLoop(
      db,
      newLoop('demo-raw', {
        name: 'Raw files of the firing',
        intake: intakeOf(join(root, 'pictures', 'raw')),
        macros: [{ macroId: 'demo-raw', revision: null }],
        deliveries: [defaultDelivery('web', join(root, 'delivered', 'raw'))],
      }),
      now - 1,
    )
    await layProof({ db, dataFolder, roots }, picture)
    layOnBench(db, { samplePath: picture(samples[0]), samples: samples.map(picture) })
    writeSetting(db, 'demoLaid', true)
  }
  db.$client.close()
}
