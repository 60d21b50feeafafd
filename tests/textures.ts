import { seeded } from './pictures'

/*
 * Pictures that are drawn all over, and hold no noise: what practitioners name (wood, gravel, cloth, plaster), computed. RGB in codes 0–255,
 * not rounded; values between samples are means of 2 × 2 of them.
 */

export const textureSize = { width: 640, height: 512 } as const

type Colour = readonly [number, number, number]
type Draw = (x: number, y: number) => Colour

/** Smooth noise with a period of 256: values −1 … 1 at whole numbers. */
function valueNoise(seed: number): (x: number, y: number) => number {
  const random = seeded(seed)
  const table = Float64Array.from({ length: 65536 }, () => random() * 2 - 1)
  const at = (x: number, y: number): number => table[(x & 255) + ((y & 255) << 8)] ?? 0
  const ease = (t: number): number => t * t * (3 - 2 * t)
  return (x, y) => {
    const [column, row] = [Math.floor(x), Math.floor(y)]
    const [fx, fy] = [ease(x - column), ease(y - row)]
    const upper = at(column, row) + (at(column + 1, row) - at(column, row)) * fx
    const lower = at(column, row + 1) + (at(column + 1, row + 1) - at(column, row + 1)) * fx
    return upper + (lower - upper) * fy
  }
}

const [grain, cloud, spot] = [valueNoise(1), valueNoise(2), valueNoise(3)] as const
const tinted = (light: number, [r, g, b]: Colour): Colour => [light * r, light * g, light * b]

const wood: Draw = (x, y) => {
  const plank = Math.floor(y / 110)
  const rings = Math.sin((y + 18 * grain(x / 160 + plank * 37.3, y / 60)) / 5.3 + 4 * grain(x / 300 + plank * 37.3, y / 40))
  const fibres = 0.13 * grain(x / 26, y / 1.1) + 0.08 * cloud(x / 60, y / 2.3) + 0.05 * spot(x / 4, y / 0.9)
  const seam = y % 110 < 2 ? 0.45 : 1
  return tinted(210 * seam * (0.55 + 0.1 * rings + fibres) * (0.85 + 0.25 * cloud(x / 500, plank * 3.7)), [1, 0.78, 0.55])
}

const cloth: Draw = (x, y) => {
  const [u, v] = [(x * 0.94 + y * 0.12) / 4.2, (y * 0.97 - x * 0.08) / 4.2]
  const over = (Math.floor(u) + Math.floor(v)) & 1
  const thread = Math.abs(Math.sin(Math.PI * (over ? u : v)))
  return tinted(
    200 * (0.42 + 0.14 * thread + 0.06 * grain(u * (over ? 4 : 0.3), v * (over ? 0.3 : 4)) + 0.08 * cloud(x / 120, y / 120)),
    [0.62, 0.75, 1],
  )
}

const plaster: Draw = (x, y) => {
  const height = (at: number): number =>
    grain((x + at) / 2.2, (y + at) / 2.2) + 0.8 * cloud((x + at) / 5, (y + at) / 5) + 1.2 * spot((x + at) / 14, (y + at) / 14)
  return tinted(230 * (0.68 + 0.1 * (height(0.6) - height(-0.6))), [1, 0.97, 0.93])
}

function gravel(): Draw {
  const { width, height } = textureSize
  const random = seeded(10)
  const top = new Int32Array(width * height * 4).fill(-1)
  const stones = Array.from({ length: 7000 }, (_, number) => {
    const stone = {
      x: random() * width,
      y: random() * height,
      radius: 2.5 + 9 * random() * random(),
      light: 0.35 + 0.5 * random(),
      tint: (random() - 0.5) * 0.1,
    }
    for (let y = Math.max(0, Math.floor(2 * (stone.y - stone.radius))); y < Math.min(2 * height, 2 * (stone.y + stone.radius)); y++)
      for (let x = Math.max(0, Math.floor(2 * (stone.x - stone.radius))); x < Math.min(2 * width, 2 * (stone.x + stone.radius)); x++)
        if (Math.hypot(x / 2 - stone.x, (y / 2 - stone.y) * 1.3) < stone.radius) top[y * 2 * width + x] = number
    return stone
  })
  return (x, y) => {
    const stone = stones[top[Math.floor(2 * y) * 2 * width + Math.floor(2 * x)] ?? -1]
    if (!stone) return [30, 27, 24]
    const shade = 1 - (0.35 * (x - stone.x + y - stone.y)) / stone.radius
    const light = stone.light * shade * (1 + 0.12 * grain(x / 1.6, y / 1.6) + 0.1 * cloud(x / 3.7, y / 3.7))
    return [light * 190 * (1 + stone.tint), light * 183, light * 172 * (1 - stone.tint)]
  }
}

const samples = [0.25, 0.75].flatMap((dy) => [0.25, 0.75].map((dx) => [dx, dy] as const))

function drawn(draw: Draw): Float64Array {
  const { width, height } = textureSize
  const codes = new Float64Array(width * height * 3)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const seen = samples.map(([dx, dy]) => draw(x + dx, y + dy))
      for (const channel of [0, 1, 2] as const)
        codes[(y * width + x) * 3 + channel] = Math.min(250, Math.max(5, seen.reduce((sum, colour) => sum + colour[channel], 0) / 4))
    }
  return codes
}

export const textures = {
  wood: () => drawn(wood),
  gravel: () => drawn(gravel()),
  cloth: () => drawn(cloth),
  plaster: () => drawn(plaster),
} as const
export type Texture = keyof typeof textures
