import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Kernels } from '@kernels/binding'
import sharp from 'sharp'
import { transform, type Vector3 } from '@/colour/matrix'
import { colourSpaces, rgbToRgb, workingSpace } from '@/colour/spaces'
import { srgbTransfer } from '@/colour/transfer'
import type { LinearPicture } from '@/pixels/linear-picture'
import { castMatrix } from './casts'
import type { LitScene } from './lit-scenes'

/* Scenes in plain light, put into another: of the demo with its true casts taken away, and invented ones. */

/** The demo's pictures that show fire: what they show is warm, and no lamp. */
const fires = ['kiln_spy', 'kiln_shelf', 'kiln_door', 'kiln_cool']

export interface DemoScene extends LitScene {
  readonly name: string
  /** What it shows, without which view of it: pictures of one kind share grounds and vessels. */
  readonly group: string
}

interface TrueCast {
  readonly scene: string
  readonly cast_rgb_gains: Vector3
}

const decoded = Float64Array.from({ length: 256 }, (_, code) => srgbTransfer.decode(code / 255))

/** The demo's pictures, 384 pixels long, as they would be without their casts. @param isWanted by the file's name and what it shows */
export async function demoScenes(isWanted: (name: string, scene: string) => boolean = () => true): Promise<DemoScene[]> {
  const truth = JSON.parse(readFileSync('demo/truth.json', 'utf8')).files as Record<string, TrueCast>
  const files = readdirSync('demo/pictures', { recursive: true, withFileTypes: true }).filter(
    (entry) => entry.isFile() && truth[entry.name] && isWanted(entry.name, truth[entry.name]?.scene ?? ''),
  )
  files.sort((a, b) => a.name.localeCompare(b.name, 'en'))
  return Promise.all(
    files.map(async (file) => {
      const { scene, cast_rgb_gains: gains } = truth[file.name] as TrueCast
      const small = sharp(join(file.parentPath, file.name)).rotate().resize(384, 384, { fit: 'inside' }).removeAlpha().raw()
      const { data, info } = await small.toBuffer({ resolveWithObject: true })
      const isFire = fires.includes(scene)
      const light = Float64Array.from(
        data,
        (code, i) => ((decoded[code] ?? 0) / (isFire ? 1 : (gains[i % 3] ?? 1))) * (isFire ? 1 : gains[1]),
      )
      const group = isFire ? 'kiln' : scene.replace(/_.*/, '')
      return { name: file.name, group, light, size: { width: info.width, height: info.height }, hasNeutral: !isFire, isFire }
    }),
  )
}

/** A part of a scene. Shares of its sides. */
export function partOf<T extends LitScene>(scene: T, { x, y, share }: { x: number; y: number; share: number }): T {
  const [width, height] = [Math.round(scene.size.width * share), Math.round(scene.size.height * share)]
  const [left, top] = [Math.round((scene.size.width - width) * x), Math.round((scene.size.height - height) * y)]
  const light = new Float64Array(width * height * 3)
  for (let row = 0; row < height; row++) {
    const at = ((row + top) * scene.size.width + left) * 3
    light.set(scene.light.subarray(at, at + width * 3), row * width * 3)
  }
  return { ...scene, light, size: { width, height } }
}

export interface CastLight {
  readonly temperatureK: number
  readonly duv?: number
  readonly ev?: number
}

/** As a camera records a scene in a light that it takes for plain: sRGB codes, cut off at both ends. */
export function recorded({ light, size }: LitScene, { temperatureK, duv = 0, ev = 0 }: CastLight) {
  const [matrix, gain] = [castMatrix(temperatureK, duv), 2 ** ev]
  const pixels = new Uint8Array(light.length)
  for (let i = 0; i < light.length; i += 3) {
    const [r = 0, g = 0, b = 0] = [light[i], light[i + 1], light[i + 2]]
    for (const [c, value] of transform(matrix, [r * gain, g * gain, b * gain]).entries())
      pixels[i + c] = Math.round(255 * srgbTransfer.encode(Math.min(1, Math.max(0, value))))
  }
  return { size, pixels }
}

const toWorking = rgbToRgb(colourSpaces.srgb, workingSpace)

/** The copy of a recorded picture that is measured: area-averaged linear working RGB. */
export function measured(kernels: Kernels, { size, pixels }: ReturnType<typeof recorded>, edge = 192): LinearPicture {
  const factor = Math.max(1, Math.round(Math.max(size.width, size.height) / edge))
  const small = { width: Math.floor(size.width / factor), height: Math.floor(size.height / factor) }
  const length = small.width * small.height
  const planes = new Float32Array(3 * length)
  for (let y = 0; y < small.height; y++)
    for (let x = 0; x < small.width; x++) {
      const sum: [number, number, number] = [0, 0, 0]
      for (let dy = 0; dy < factor; dy++)
        for (let dx = 0; dx < factor; dx++) {
          const at = ((y * factor + dy) * size.width + x * factor + dx) * 3
          for (const c of [0, 1, 2] as const) sum[c] += decoded[pixels[at + c] ?? 0] ?? 0
        }
      const [r, g, b] = transform(toWorking, sum)
      const at = y * small.width + x
      planes[at] = r / factor ** 2
      planes[length + at] = g / factor ** 2
      planes[2 * length + at] = b / factor ** 2
    }
  return { size: small, planes, kernels }
}
