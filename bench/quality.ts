import type { Kernels } from '@kernels/binding'
import sharp from 'sharp'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { newStep, type Step } from '@/macros/step'
import { edgeFigures, linesBeside, slantedEdge } from '../tests/edge'
import type { Row } from './measure'
import { compareNoise, compareThorough, summarise, wholeRates } from './noise'

const figure = ({ psnr, ssim }: { psnr: number; ssim: number }): string => `${psnr.toFixed(1)} dB / ${ssim.toFixed(3)}`

/** Of what a case's name ends with: camera, s25, iso1600-92. */
function labelOf(kind: string): string {
  if (kind === 'camera') return 'the demo camera’s noise'
  if (!kind.startsWith('iso')) return `white noise, sigma ${kind.slice(1)}`
  const [iso, quality] = kind.slice(3).split('-')
  return `a camera’s at ISO ${iso}${quality ? `, JPEG ${quality}` : ''}`
}

/** Noise reduction against a reference library, where that is installed. */
export async function noiseRows(kernels: Kernels): Promise<Row[]> {
  const compared = await compareNoise(kernels)
  if (!compared)
    return [
      {
        what: 'noise reduction against references',
        measured: 'scikit-image is not installed (apt-get install python3-skimage python3-pywt)',
        goal: '',
        met: false,
      },
    ]
  const quality = Object.entries(summarise(compared)).map(([kind, methods]): Row => {
    const { ours, 'ours-thorough': thorough, 'ours-default': plain, 'non-local means': means, wavelet } = methods
    if (!ours || !thorough || !plain || !means || !wavelet) throw new Error('A method is missing')
    const label = labelOf(kind)
    return {
      what: `noise reduction, ${label}: PSNR / SSIM at full strength, thorough; at the default; non-local means; wavelet`,
      measured: `${figure(ours)}, ${figure(thorough)}; ${figure(plain)}; ${figure(means)}; ${figure(wavelet)}`,
      goal: 'above both, at the default, too',
      met: [ours, plain].every((one) => one.psnr > Math.max(means.psnr, wavelet.psnr) && one.ssim > Math.max(means.ssim, wavelet.ssim)),
    }
  })
  const thoroughly = Object.entries(summarise(compareThorough())).map(([kind, methods]): Row => {
    const { 'ours-thorough': thorough, 'block matching': reference } = methods
    if (!thorough || !reference) throw new Error('A method is missing')
    return {
      what: `noise reduction, thorough, at full strength, ${labelOf(kind)}, the middles of the four truths: PSNR / SSIM; block matching and 3D filtering, told the truth`,
      measured: `${figure(thorough)}; ${figure(reference)}`,
      goal: 'within 0.5 dB',
      met: thorough.psnr > reference.psnr - 0.5,
    }
  })
  const { megapixels, ours, means, wavelet } = await wholeRates(kernels)
  const rate = {
    what: `noise reduction of a whole picture of ${megapixels} MP, sigma 15, measuring included, Mpx/s: ours at the default; non-local means; wavelet`,
    measured: `${ours.toFixed(1)}; ${means.toFixed(2)}; ${wavelet.toFixed(2)} (${(ours / means).toFixed(1)} × and ${(ours / wavelet).toFixed(1)} ×)`,
    goal: '≥ 10 × both; ≥ 35',
    met: ours >= 10 * Math.max(means, wavelet) && ours >= 35,
  }
  return [...quality, ...thoroughly, rate]
}

/** Edge width and overshoot after a reduction to a third, ours and the library's. */
export async function edgeRows(kernels: Kernels): Promise<Row[]> {
  const [width, height] = [720, 576]
  const source = slantedEdge(width, height, 1.2)
  const [w, h] = [width / 3, height / 3]
  const render = (steps: readonly Step[]) => {
    const resolved = resolveSteps(steps, source.size, { sampler: createSampler(kernels, source) })
    const pixels = renderEncoded(kernels, planRender(source, resolved, 'full'), { space: 'srgb', channels: 3, dither: false })
    return { ...edgeFigures(pixels, w, h), ...linesBeside(pixels, source.pixels) }
  }
  const resized = newStep('resize', 'r', { by: 'width', lengthPx: w })
  const plain = render([resized])
  const unsharp = render([resized, newStep('unsharp-mask', 'u')])
  const ours = render([newStep('sharpen-for-size', 's', { longEdgePx: w })])
  const bytes = await sharp(Buffer.from(source.pixels), { raw: { width, height, channels: 3 } })
    .resize(w, h)
    .sharpen({ sigma: 0.8 })
    .raw()
    .toBuffer()
  const theirs = { ...edgeFigures(bytes, w, h), ...linesBeside(bytes, source.pixels) }
  const words = ({ widthPx, overshootPercent, over, under }: typeof ours) =>
    `${widthPx.toFixed(2)} px, ${overshootPercent.toFixed(0)} % (+${over.toFixed(0)} −${under.toFixed(0)} codes)`
  return [
    {
      what: 'slanted edge (ISO 12233) at a third: 10–90 % width, overshoot, and lines on the bright and on the dark side; sharpen for size, resize, resize + unsharp mask, the library’s resize + sharpen',
      measured: [ours, plain, unsharp, theirs].map(words).join('; '),
      goal: 'narrower than resize, less overshoot than the library; lines ≤ 10 and ≤ 5 codes',
      met:
        ours.widthPx < plain.widthPx &&
        ours.overshootPercent < theirs.overshootPercent &&
        Math.max(ours.over, ours.under) <= 10 &&
        Math.max(plain.over, plain.under) <= 5,
    },
  ]
}
