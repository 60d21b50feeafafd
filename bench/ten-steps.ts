import { defaultEncoding } from '@/jobs/encoding'
import { newStep, type Step } from '@/macros/step'

/** What the goals' pictures are written as. */
export const webJpeg = { ...defaultEncoding, qualityPercent: 88, chroma: '4:2:0' } as const

export const sharpening = newStep('unsharp-mask', 'sharpen', { amountPercent: 80, radiusPx: 0.8 })
/** The macro that the goals are set for. */
export const tenSteps: readonly Step[] = [
  newStep('full-range', 'full-range'),
  newStep('exposure', 'exposure', { exposureEv: 0.15, shoulderPercent: 30 }),
  newStep('white-balance', 'white-balance', { by: 'auto' }),
  newStep('curve', 'curve', {
    all: [
      [0, 0],
      [64, 58],
      [192, 200],
      [255, 255],
    ],
  }),
  newStep('vibrance', 'vibrance', { vibrancePercent: 20 }),
  newStep('local-contrast', 'local-contrast', { amountPercent: 20 }),
  newStep('noise-reduction', 'noise-reduction'),
  newStep('crop', 'crop', { ratioWidth: 3, ratioHeight: 2, sizePercent: 96 }),
  newStep('resize', 'resize', { by: 'longEdge', lengthPx: 2048 }),
  sharpening,
]
