import { cpSync, existsSync } from 'node:fs'
import { join } from 'node:path'
import { defaultDelivery } from '@/core/loop'
import { placeOnBench } from '@/db/bench'
import { saveLoop } from '@/db/loops'
import { findMacro, insertMacro } from '@/db/macros'
import { readSetting, writeSetting } from '@/db/settings'
import { checkMacro } from '@/macro/codec'
import { newStep } from '@/macro/step'
import { dataFolderOf, openContext } from '@/server/context'

/*
 * Lays out the demo in the data folder: the pictures of an invented pottery's firing, one macro and one loop, ready
 * to run. Done once; what a person has changed since stays as it is.
 */

const macroId = 'demo-shop-listing'

const shopListing = {
  name: 'Shop listing',
  notes: 'For the shop pages: a little lift, clean white ground, crisp glaze, square and small.',
  tags: ['web', 'vessels'],
  steps: [
    newStep('exposure', 'lift', { exposureEv: 0.2, shoulderPercent: 30 }),
    newStep('levels', 'ground', { allBlack: 6, allWhite: 248, allGamma: 1.05 }),
    newStep('saturation', 'glaze', { saturationPercent: 8 }),
    newStep('crop', 'square', { shape: 'ratio', ratioWidth: 1, ratioHeight: 1 }),
    newStep('resize', 'small', { by: 'longEdge', lengthPx: 1350 }),
    newStep('unsharp-mask', 'crisp', { amountPercent: 80, radiusPx: 0.7, thresholdLevels: 2, haloLimitLevels: 6 }),
  ],
}

export function layDemo(environment: NodeJS.ProcessEnv, demoFolder: string, migrationsFolder: string): void {
  const root = join(dataFolderOf(environment), 'demo')
  if (!existsSync(join(root, 'pictures')))
    for (const part of ['pictures', 'odd-files', 'marks']) cpSync(join(demoFolder, part), join(root, part), { recursive: true })
  const { db } = openContext(environment, migrationsFolder)
  if (!readSetting(db, 'demoLaid')) {
    const now = Date.now()
    if (!findMacro(db, macroId)) insertMacro(db, { id: macroId, ...checkMacro(shopListing) }, now)
    const delivery = { ...defaultDelivery('web', join(root, 'delivered', 'shop')), namePattern: 'tern-lane-{name:lower}' }
    saveLoop(
      db,
      {
        id: 'demo-shop',
        name: 'Vessels for the shop',
        intake: { folder: join(root, 'pictures', 'vessels'), subfolders: false },
        macros: [{ macroId, revision: null }],
        deliveries: [delivery],
      },
      now,
    )
    placeOnBench(db, { samplePath: join(root, 'pictures', 'vessels', 'TLK27_0422.jpg') })
    writeSetting(db, 'demoLaid', true)
  }
  db.$client.close()
}
