import { existsSync, readFileSync } from 'node:fs'
import { basename, resolve } from 'node:path'
import { instantiateKernels } from '@kernels/binding'
import sharp from 'sharp'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { decodePicture } from '@/files/decode'
import { readFacts } from '@/files/facts'
import { assetsFor } from '@/files/step-assets'
import { readMacroFile } from '@/macros/codec'
import { completeSteps, type Step, stepName, stepSetting } from '@/macros/step'
import { openContext } from '@/services/context'
import { keptFilesFolder } from '@/services/kept-files'
import { shelf } from '@/services/macros'
import { medianOfTurns } from './measure'

/*
 * `./loop bench steps MACRO PICTURE`: what every step of a macro costs on a picture. Steps share conversions, so each is told by what the
 * picture takes more with it than without it, those before it done: less, where it leaves others fewer pixels.
 */

const [wanted, path] = process.argv.slice(2)
if (!wanted || !path) {
  console.error('./loop bench steps MACRO PICTURE: a macro’s name on the shelf, or its file; and a picture.')
  process.exit(2)
}
sharp.concurrency(1)
sharp.cache(false)

const context = openContext(process.env)

function stepsOf(macro: string): readonly Step[] {
  if (existsSync(macro)) return completeSteps(readMacroFile(readFileSync(macro, 'utf8')).steps)
  const macros = shelf(context, [])
  const found = macros.find(({ name }) => name.toLowerCase() === macro.toLowerCase())
  if (found) return found.steps
  console.error(`No macro is called "${macro}". On the shelf: ${macros.map(({ name }) => name).join(', ') || 'none'}.`)
  return process.exit(2)
}

const steps = stepsOf(wanted).filter(({ enabled }) => enabled)
const kernels = await instantiateKernels(await WebAssembly.compile(readFileSync('.build/kernels.wasm')))
const bytes = readFileSync(path)
const { source } = await decodePicture(bytes, path)
const subject = { facts: await readFacts(bytes, path), name: basename(path) }
const assets = await assetsFor(steps, { files: keptFilesFolder(context.dataFolder), fonts: resolve('.build/fonts') })
const { width, height } = source.size
const megapixels = (width * height) / 1e6

/** With so many of the steps: measuring, and rendering as far as the codes of a file, so that no step pays for the way there. */
function withFirst(count: number) {
  const some = steps.slice(0, count)
  const measure = () => resolveSteps(some, source.size, { sampler: createSampler(kernels, source), subject, assets })
  const plan = planRender(source, measure(), 'full')
  return {
    measure,
    render: () => renderEncoded(kernels, plan, { space: 'srgb', channels: 3, dither: true }),
  }
}

const all = Array.from({ length: steps.length + 1 }, (_, count) => withFirst(count))
const turns = 3
const measuring = await medianOfTurns(
  turns,
  all.map(({ measure }) => measure),
)
const rendering = await medianOfTurns(
  turns,
  all.map(({ render }) => render),
)
const at = (times: readonly number[], index: number): number => times[index] ?? Number.NaN
const column = (text: string): string => text.padStart(8)
function line(what: string, measured: number, rendered: number): string {
  const milliseconds = measured + rendered
  const rate = milliseconds >= 1 ? ((1000 * megapixels) / milliseconds).toFixed(0) : ''
  return `${column(measured.toFixed(0))} ${column(rendered.toFixed(0))} ${column(rate)}  ${what}`
}

console.log(`${basename(path)}: ${width} × ${height} px, ${megapixels.toFixed(1)} MP. Milliseconds of one thread, medians of ${turns}.\n`)
console.log(' measure   render     MP/s')
console.log(line('reading and writing codes', at(measuring, 0), at(rendering, 0)))
for (const [i, step] of steps.entries())
  console.log(
    line(`${stepName(step)}: ${stepSetting(step)}`, at(measuring, i + 1) - at(measuring, i), at(rendering, i + 1) - at(rendering, i)),
  )
console.log(line('all of it', at(measuring, steps.length), at(rendering, steps.length)))
context.db.$client.close()
