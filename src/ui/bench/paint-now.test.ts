import { beforeEach, describe, expect, it, vi } from 'vitest'
import { awaits, draw, paintNow, paintsOn } from './paint-now'
import type { RenderedView } from './worker/protocol'

/** What of a canvas is used. */
class FakeCanvas {
  width = 0
  height = 0
  ariaBusy: string | null = null
  readonly dataset: Record<string, string> = {}
  readonly painted: number[][] = []
  getContext() {
    return { putImageData: ({ width, height }: ImageData) => this.painted.push([width, height]) }
  }
}

const newCanvas = () => {
  const fake = new FakeCanvas()
  return { fake, canvas: fake as unknown as HTMLCanvasElement }
}

const view = (id: number, width: number, part: Partial<RenderedView> = {}) => {
  const [size, fullSize] = [
    { width, height: width },
    { width: 400, height: 400 },
  ]
  return {
    id,
    size,
    fullSize,
    rect: { x: 0, y: 0, ...fullSize },
    pixels: new Uint8ClampedArray(width * width * 4),
    ...part,
  } as RenderedView
}
const part = (id: number, width: number) => view(id, width, { rect: { x: 9, y: 9, width, height: width } })

beforeEach(() => {
  vi.stubGlobal(
    'ImageData',
    class {
      constructor(
        readonly data: Uint8ClampedArray,
        readonly width: number,
        readonly height: number,
      ) {}
    },
  )
})

describe('a picture on its way to the screen', () => {
  it('is drawn at once where the page has room for it: a whole one however sharp it is', () => {
    const { fake, canvas } = newCanvas()
    const away = paintsOn('after', canvas)
    expect(paintNow('after', view(1, 200))).toBe(false)
    draw(canvas, view(1, 200))
    expect(paintNow('after', view(2, 100))).toBe(true)
    expect([fake.width, fake.height, fake.painted]).toEqual([100, 100, [[200, 200], [100, 100]]]) // biome-ignore format: pairs
    expect(paintNow('after', view(3, 100, { fullSize: { width: 300, height: 300 } }))).toBe(false)
    expect(paintNow('before', view(3, 100))).toBe(false)
    away()
    expect(paintNow('after', view(4, 100))).toBe(false)
  })
  it('waits for the page if it is a part of another size', () => {
    const { canvas } = newCanvas()
    paintsOn('after', canvas)
    draw(canvas, part(1, 50))
    expect(paintNow('after', part(2, 50))).toBe(true)
    expect(paintNow('after', part(3, 60))).toBe(false)
    expect(paintNow('after', view(4, 50))).toBe(false)
  })
  it('is not drawn over a newer one', () => {
    const { fake, canvas } = newCanvas()
    draw(canvas, view(5, 20))
    draw(canvas, view(4, 30))
    expect(fake.painted).toEqual([[20, 20]])
    expect(fake.dataset.render).toBe('5')
  })
  it('makes its canvas busy from the moment it is asked for until it, or a newer one, is there', () => {
    const { fake, canvas } = newCanvas()
    awaits('after', 7)
    paintsOn('after', canvas)
    expect(fake.ariaBusy).toBe('true')
    draw(canvas, view(6, 20))
    expect(fake.ariaBusy).toBe('true')
    draw(canvas, view(7, 20))
    expect(fake.ariaBusy).toBe('false')
    awaits('after', 8)
    expect(fake.ariaBusy).toBe('true')
    draw(canvas, view(9, 20))
    expect(fake.ariaBusy).toBe('false')
  })
})
