import type { Findable } from '@/base/find'
import type { useBench } from './store'

/** What is done with a whole wire, and what it needs of the bench to begin. */
interface BenchAction extends Findable {
  readonly key: string
  readonly part: Parameters<ReturnType<typeof useBench.getState>['set']>[0]
}

/** Found by what people call them, in *Find and do* and beside the operations. */
export const benchActions: readonly BenchAction[] = [
  {
    key: 'run over',
    name: 'Run over a folder',
    about: 'Puts a whole folder through what lies on the wire, into another folder',
    also: 'export, save, save as, batch, convert, deliver, process, automate, rename, folder, web set, contact sheet, index print, pdf, pages, jpeg, tiff, format, quality',
    part: { overFolder: true },
  },
  {
    key: 'deliver this',
    name: 'Deliver this picture',
    about: 'Writes the picture in hand as a file, as it is here',
    also: 'export, save, save as, save a copy, jpeg, tiff, output, one picture',
    part: { deliversOne: true },
  },
  {
    key: 'try macros',
    name: 'Try macros',
    about: 'Every macro and look of the shelf on the picture in hand, large',
    also: 'presets, looks, lut, film, filters, styles, browse, preview, compare macros, apply macro',
    part: { tries: true },
  },
  {
    key: 'add',
    name: 'Add a step',
    about: 'Opens the list of operations',
    also: 'edit, adjust, adjustment, filter, effect, tool',
    part: { adding: true },
  },
]
