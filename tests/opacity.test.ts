import type { Kernels } from '@kernels/binding'
import sharp from 'sharp'
import { beforeAll, describe, expect, it } from 'vitest'
import { layOnWhite, opacitySource, planOpacity, renderOpacity } from '@/engine/opacity'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { finalSize, resolveSteps } from '@/engine/resolve'
import { decodePicture } from '@/files/decode'
import { encodePicture, withOpacity } from '@/files/encode'
import { defaultEncoding, type EncodingFormat } from '@/jobs/encoding'
import { newStep, type Step } from '@/macros/step'
import { testKernels } from './kernels'

let kernels: Kernels
beforeAll(async () => {
  kernels = await testKernels()
})

/** An orange disc on nothing; what is hidden is black, as most programs leave it. The rim is smooth. */
const edge = 120
const centre = (edge - 1) / 2
function disc(min = 0, max = 255): Buffer {
  const pixels = Buffer.alloc(edge * edge * 4)
  for (let y = 0; y < edge; y++)
    for (let x = 0; x < edge; x++) {
      const share = Math.min(Math.max(45.5 - Math.hypot(x - centre, y - centre), 0), 1)
      const opacity = Math.round(min + share * (max - min))
      if (opacity > 0) pixels.set([220, 130, 40, opacity], (y * edge + x) * 4)
    }
  return pixels
}
const discPng = (min?: number, max?: number): Promise<Buffer> =>
  sharp(disc(min, max), { raw: { width: edge, height: edge, channels: 4 } })
    .png()
    .toBuffer()

async function deliver(steps: readonly Step[], format: EncodingFormat, file = discPng()): Promise<Buffer> {
  const { source } = await decodePicture(await file, 'disc.png')
  const resolved = resolveSteps(steps, source.size)
  const values = renderEncoded(kernels, planRender(source, resolved, 'full'), { space: 'srgb', channels: 3, dither: false })
  const opacity = opacitySource(source)
  if (!opacity) throw new Error('the disc should not be opaque')
  const seen = renderOpacity(kernels, planOpacity(opacity, resolved, 'full'))
  if (format === 'jpeg') layOnWhite(values, 3, seen)
  const pixels = format === 'jpeg' ? { values, channels: 3 as const } : withOpacity(values, seen)
  return encodePicture(pixels, finalSize(resolved, source.size), { ...defaultEncoding, format, qualityPercent: 100 }, {})
}

const rgba = async (file: Buffer) => sharp(file).ensureAlpha().raw().toBuffer({ resolveWithObject: true })

describe('opacity', () => {
  it('is dropped where a picture is opaque throughout', async () => {
    const file = await sharp({ create: { width: 4, height: 4, channels: 4, background: { r: 1, g: 2, b: 3, alpha: 1 } } })
      .png()
      .toBuffer()
    const { source } = await decodePicture(file, 'x.png')
    expect(source.alpha).toBeUndefined()
    expect([...source.pixels.slice(0, 3)]).toEqual([1, 2, 3])
  })
  it('keeps colours under partly seen pixels, and gives hidden ones those of their surroundings', async () => {
    const { source } = await decodePicture(await discPng(), 'disc.png')
    expect(source.alpha?.[0]).toBe(0)
    for (let i = 0; i < edge * edge; i++) expect([...source.pixels.slice(i * 3, i * 3 + 3)]).toEqual([220, 130, 40])
  })
  it('of 16 bits stays at 16 bits', async () => {
    const pixels = new Uint16Array([1000, 2000, 3000, 30000, 4000, 5000, 6000, 65535])
    const file = await sharp(pixels, { raw: { width: 2, height: 1, channels: 4 } })
      .toColourspace('rgb16')
      .png()
      .toBuffer()
    const { source } = await decodePicture(file, 'x.png')
    expect([...(source.alpha ?? [])]).toEqual([30000, 65535])
  })
  it.each(['png', 'tiff', 'webp', 'avif'] as const)('goes out in %s, through crop and turn', async (format) => {
    const steps = [newStep('turn-mirror', '1', { turn: 'right' }), newStep('exposure', '2', { exposureEv: 0.3 })]
    const { data, info } = await rgba(await deliver(steps, format))
    expect(info).toMatchObject({ width: edge, height: edge })
    const opacities = [data[3], data[((edge / 2) * edge + edge / 2) * 4 + 3]]
    expect(Math.abs(opacities[0] ?? 9)).toBeLessThanOrEqual(1)
    expect(opacities[1]).toBeGreaterThanOrEqual(254)
  })
  it('resized, is what libvips makes of premultiplied pixels within 2 codes, opacity and colour (none reaches the ends, where it cuts off between passes)', async () => {
    const { data: ours } = await rgba(await deliver([newStep('resize', '1', { lengthPx: 40, edition: 'first' })], 'png', discPng(40, 215)))
    // Held within what it reduces, opacity does not ring, and colour stays what it is.
    const { data: held } = await rgba(await deliver([newStep('resize', '1', { lengthPx: 40 })], 'png', discPng(40, 215)))
    const { data: theirs } = await sharp(disc(40, 215), { raw: { width: edge, height: edge, channels: 4 } })
      .resize(40, 40, { kernel: 'lanczos3' })
      .raw()
      .toBuffer({ resolveWithObject: true })
    let [worstOpacity, worstColour, heldOpacity, heldColour] = [0, 0, 0, 0]
    for (let i = 0; i < 1600; i++) {
      const seen = theirs[i * 4 + 3] ?? 0
      worstOpacity = Math.max(worstOpacity, Math.abs((ours[i * 4 + 3] ?? 0) - seen))
      heldOpacity = Math.max(heldOpacity, (held[i * 4 + 3] ?? 0) - 215, 40 - (held[i * 4 + 3] ?? 0))
      if (seen > 128)
        for (let c = 0; c < 3; c++) heldColour = Math.max(heldColour, Math.abs((held[i * 4 + c] ?? 0) - (theirs[i * 4 + c] ?? 0)))
      if (seen > 128)
        for (let c = 0; c < 3; c++) worstColour = Math.max(worstColour, Math.abs((ours[i * 4 + c] ?? 0) - (theirs[i * 4 + c] ?? 0)))
    }
    expect(worstOpacity).toBeLessThanOrEqual(2)
    expect(worstColour).toBeLessThanOrEqual(2)
    expect(heldOpacity).toBeLessThanOrEqual(4)
    expect(heldColour).toBeLessThanOrEqual(3)
  })
  it('becomes white in a JPEG, without a dark rim after sharpening', async () => {
    const { data } = await rgba(await deliver([newStep('unsharp-mask', '1', { amountPercent: 200, radiusPx: 2 })], 'jpeg'))
    expect([...data.slice(0, 3)]).toEqual([255, 255, 255])
    for (let i = 0; i < edge * edge; i++) expect(data[i * 4 + 1]).toBeGreaterThanOrEqual(122)
  })
  it('of a border is full', async () => {
    const { data, info } = await rgba(await deliver([newStep('pad', '1', {})], 'png'))
    expect(info.width).toBeGreaterThan(edge)
    expect(data[3]).toBe(255)
  })
})
