import { readFileSync } from 'node:fs'
import { instantiateKernels } from '@kernels/binding'
import { isWholeJpeg } from '@kernels/jpeg-scan'
import sharp from 'sharp'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { finalSize, resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { decodePicture } from '@/files/decode'
import { encodePicture } from '@/files/encode'
import { defaultEncoding } from '@/jobs/encoding'
import { bytesOf, largePicture } from './pictures'
import { tenSteps } from './ten-steps'

/** One picture of so many megapixels through the ten steps; prints the peak of resident memory. */
sharp.concurrency(1)
sharp.cache(false)
const megapixels = Number(process.argv[2])
const path = await largePicture(megapixels)
const bytes = await bytesOf(path)
const kernels = await instantiateKernels(await WebAssembly.compile(readFileSync('.build/kernels.wasm')))
const started = performance.now()
const { source, carried } = await decodePicture(bytes, path, { damaged: 'fail', isWholeJpeg: (jpeg) => isWholeJpeg(kernels, jpeg) })
const steps = resolveSteps(tenSteps, source.size, { sampler: createSampler(kernels, source) })
const pixels = renderEncoded(kernels, planRender(source, steps, 'full'), { space: 'srgb', channels: 3, dither: true })
await encodePicture({ values: pixels, channels: 3 }, finalSize(steps, source.size), defaultEncoding, carried)
const seconds = (performance.now() - started) / 1000
// The most this process has held, in kilobytes (getrusage).
console.log(JSON.stringify({ peakMb: process.resourceUsage().maxRSS / 1000, seconds }))
