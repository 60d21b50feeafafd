import { readFileSync } from 'node:fs'
import { instantiateKernels } from '@kernels/binding'
import sharp from 'sharp'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { finalSize, resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { decodePicture } from '@/files/decode'
import { encodePicture } from '@/files/encode'
import { readFacts } from '@/files/facts'
import { defaultEncoding } from '@/jobs/encoding'
import { startedRaw } from '@/macros/raw-start'
import { newStep } from '@/macros/step'
import { bytesOf, largeRaw } from './pictures'

/** A raw file of 24 MP to a JPEG of 2048 px, with the default rendering; prints the peak of resident memory. */
sharp.concurrency(1)
sharp.cache(false)
const path = await largeRaw()
const bytes = await bytesOf(path)
const kernels = await instantiateKernels(await WebAssembly.compile(readFileSync('.build/kernels.wasm')))
const started = performance.now()
const { source, carried } = await decodePicture(bytes, path)
const subject = { facts: await readFacts(bytes, path), name: 'large.dng' }
const wanted = startedRaw([newStep('resize', 'resize', { by: 'longEdge', lengthPx: 2048 })], [])
const steps = resolveSteps(wanted, source.size, { sampler: createSampler(kernels, source), subject })
const pixels = renderEncoded(kernels, planRender(source, steps, 'full'), { space: 'srgb', channels: 3, dither: true })
await encodePicture({ values: pixels, channels: 3 }, finalSize(steps, source.size), defaultEncoding, carried)
const seconds = (performance.now() - started) / 1000
// The most this process has held, in kilobytes (getrusage).
console.log(JSON.stringify({ peakMb: process.resourceUsage().maxRSS / 1000, seconds }))
