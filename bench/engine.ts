import type { Kernels } from '@kernels/binding'
import { isWholeJpeg } from '@kernels/jpeg-scan'
import sharp from 'sharp'
import { planRender } from '@/engine/plan'
import { renderEncoded, renderProxy } from '@/engine/render'
import { finalSize, resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { decodePicture } from '@/files/decode'
import { encodePicture } from '@/files/encode'
import { sha256 } from '@/files/placing'
import { newStep, type Step } from '@/macros/step'
import { PictureSession } from '@/ui/bench/worker/session'
import { medianMs, medianOfTurns, type Row } from './measure'
import { bytesOf, largePicture } from './pictures'
import { sharpening, tenSteps, webJpeg } from './ten-steps'

const fullSize = tenSteps.filter((step) => step.operation !== 'resize')
const resizeOnly = [newStep('resize', 'resize', { by: 'longEdge', lengthPx: 2048 })]

/** The main job, with the nearest that a native library does side by side; and what the bench asks of the engine while somebody waits. */
export async function engineRows(kernels: Kernels): Promise<Row[]> {
  const path = await largePicture()
  const bytes = await bytesOf(path)
  /** One picture as a worker does it: hash, decode, look for damage, render, encode. */
  async function ours(steps: readonly Step[]): Promise<number> {
    sha256(bytes)
    const looking = { damaged: 'fail', isWholeJpeg: (jpeg: Buffer) => isWholeJpeg(kernels, jpeg) } as const
    const { source, carried } = await decodePicture(bytes, path, looking)
    const resolved = resolveSteps(steps, source.size, { sampler: createSampler(kernels, source) })
    const pixels = renderEncoded(kernels, planRender(source, resolved, 'full'), { space: 'srgb', channels: 3, dither: true })
    return (await encodePicture({ values: pixels, channels: 3 }, finalSize(resolved, source.size), webJpeg, carried)).length
  }
  const bareFull = () => sharp(bytes).jpeg({ quality: 88 }).toBuffer()
  const theirResize = () => sharp(bytes).resize(2048).jpeg({ quality: 88 }).toBuffer()
  /** The nearest chain of the library's own operations. */
  const theirChain = () =>
    sharp(bytes)
      .normalise({ lower: 0.1, upper: 99.9 })
      .linear(1.1, 0)
      .recomb([
        [1.02, 0, 0],
        [0, 1, 0],
        [0, 0, 0.97],
      ])
      .gamma(1.1)
      .modulate({ saturation: 1.12 })
      .clahe({ width: 300, height: 300, maxSlope: 2 })
      .median(3)
      .extract({ left: 120, top: 80, width: 5760, height: 3840 })
      .resize(2048)
      .sharpen({ sigma: 0.8 })
      .jpeg({ quality: 88 })
      .toBuffer()

  const rows: Row[] = []
  const ratio = (what: string, a: number, b: number, max: number, min = false): void => {
    const value = min ? b / a : a / b
    rows.push({
      what,
      measured: `${value.toFixed(2)} × (${a.toFixed(0)} ms against ${b.toFixed(0)} ms)`,
      goal: `${min ? '≥' : '≤'} ${max} ×`,
      met: min ? value >= max : value <= max,
    })
  }
  const atMost = (what: string, ms: number, max: number): void =>
    void rows.push({ what, measured: `${ms.toFixed(1)} ms`, goal: `≤ ${max} ms`, met: ms <= max })

  const [ten, full, webSet, bare, theirs, chain] = (await medianOfTurns(5, [
    () => ours(tenSteps),
    () => ours(fullSize),
    () => ours(resizeOnly),
    bareFull,
    theirResize,
    theirChain,
  ])) as [number, number, number, number, number, number]
  ratio('ten steps, 24 MP JPEG → 2048 px JPEG, against bare decode + encode', ten, bare, 4)
  ratio('the same, times faster than the nearest chain of the library', ten, chain, 10, true)
  ratio('nine steps to full size, against bare decode + encode', full, bare, 5.5)
  ratio('resize only (web set), against the library’s own resize', webSet, theirs, 1)

  const { source } = await decodePicture(bytes, path)
  atMost(
    'what is measured on a picture of 24 MP before the ten steps are rendered',
    await medianMs(25, () => resolveSteps(tenSteps, source.size, { sampler: createSampler(kernels, source) })),
    100,
  )
  const session = new PictureSession(kernels, source)
  const view = { kind: 'fit', widthPx: 1732, heightPx: 1155 } as const
  let wish = 0
  const preview = (steps: readonly Step[], focus: number) => () =>
    session.render({
      id: 0,
      path,
      steps: steps.map((step, i) => (i === focus ? { ...step, strengthPercent: 60 + (wish++ % 40) } : step)),
      focus,
      view,
      heldDensity: 1,
      histogram: true,
    })
  atMost('preview at 2 MP, dragging a point operation (render only)', await medianMs(15, preview([tenSteps[1] as Step], 0)), 33)
  atMost('preview at 2 MP, dragging an unsharp mask (render only)', await medianMs(15, preview([tenSteps[1] as Step, sharpening], 1)), 100)
  const region = { kind: 'region', centreX: 0.5, centreY: 0.5, widthPx: 1200, heightPx: 800 } as const
  atMost(
    '100 % region of 1200 × 800, ten steps',
    await medianMs(25, () => session.render({ id: 0, path, steps: tenSteps, focus: 9, view: region, histogram: false })),
    60,
  )
  atMost('2 MP proxy of a 24 MP source', await medianMs(15, () => renderProxy(kernels, source, 0.29)), 200)

  return rows
}
