import type { Kernels } from '@kernels/binding'
import { type Rect, wholeRect } from '@/base/geometry'
import { codeAt, floatAt } from '@/base/numbers'
import type { Curve } from '@/colour/curve'
import { identity3 } from '@/colour/matrix'
import type { Effect } from '@/operations'
import type { InterleavedSource } from '@/pixels/picture'
import { lastFrame, type Plan, type Purpose, planRender } from './plan'
import { walk } from './render'
import { playedOut, type ResolvedStep } from './resolve'
import type { Source } from './source'

/*
 * Where a picture is seen through. Colours and opacity are rendered apart: the opacity is a grey picture of its own, moved as the
 * steps move the colours. Colours of hidden places are filled at decoding, so they bring no dark edges.
 */

const linear: Curve = { kind: 'gamma', exponent: 1 }

/** The opacity as a picture; nothing for an opaque source. */
export function opacitySource({ alpha, size, fullSize }: InterleavedSource): InterleavedSource | undefined {
  if (!alpha) return undefined
  const pixels = alpha instanceof Uint16Array ? new Uint16Array(alpha.length * 3) : new Uint8Array(alpha.length * 3)
  for (let i = 0; i < alpha.length; i++) pixels.fill(codeAt(alpha, i), i * 3, i * 3 + 3)
  return { kind: 'interleaved', size, fullSize, pixels, colour: { curves: [linear, linear, linear], toWorking: identity3 } }
}

/** What the steps do to places, planned for a picture of opacity. What is laid around a picture is opaque, unless told otherwise. */
export const planOpacity = (source: Source, steps: readonly ResolvedStep[], purpose: Purpose, around: 0 | 1 = 1): Plan =>
  planRender(
    source,
    playedOut(steps).map((step) => ({ ...step, effect: moving(step.effect, around) })),
    purpose,
  )

/** The effect on places alone. */
function moving(effect: Effect, around: 0 | 1): Effect {
  switch (effect.kind) {
    case 'crop':
    case 'turn':
    case 'resample':
    case 'warp':
      return effect
    case 'pad':
      return { ...effect, ground: { kind: 'plain', colour: [around, around, around] } }
    case 'chain':
      return { kind: 'chain', effects: effect.effects.map((part) => moving(part, around)) }
    default:
      return { kind: 'none' }
  }
}

/** Opacity of a rectangle of the finished picture: one value a pixel, 0–1. */
export function renderOpacity(kernels: Kernels, plan: Plan, rect: Rect = wholeRect(lastFrame(plan).size)): Float32Array {
  const opacity = new Float32Array(rect.width * rect.height)
  walk(kernels, plan, rect, ({ channels, stride, height }, y) => {
    const values = kernels.heap.f32(channels[0], stride * height)
    for (let row = 0; row < height; row++)
      for (let x = 0; x < rect.width; x++) opacity[(y + row) * rect.width + x] = Math.min(Math.max(floatAt(values, row * stride + x), 0), 1)
  })
  return opacity
}

/** Lays encoded, interleaved pixels on white, in place. */
export function layOnWhite(pixels: Uint8ClampedArray | Uint16Array, channels: 3 | 4, opacity: Float32Array): void {
  const white = pixels instanceof Uint16Array ? 65535 : 255
  for (let i = 0; i < opacity.length; i++) {
    const share = floatAt(opacity, i)
    if (share === 1) continue
    for (let channel = 0; channel < 3; channel++) {
      const at = i * channels + channel
      pixels[at] = Math.round(white + (codeAt(pixels, at) - white) * share)
    }
  }
}
