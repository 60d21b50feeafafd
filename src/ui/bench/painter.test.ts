import { beforeEach, describe, expect, it, vi } from 'vitest'
import { Painter } from './painter'
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
    const painter = new Painter()
    const away = painter.attach('after', canvas)
    expect(painter.paintNow('after', view(1, 200))).toBe(false)
    painter.paint('after', view(1, 200))
    expect(painter.paintNow('after', view(2, 100))).toBe(true)
    expect([fake.width, fake.height, fake.painted]).toEqual([100, 100, [[200, 200], [100, 100]]]) // biome-ignore format: pairs
    expect(painter.paintNow('after', view(3, 100, { fullSize: { width: 300, height: 300 } }))).toBe(false)
    expect(painter.paintNow('before', view(3, 100))).toBe(false)
    away()
    expect(painter.paintNow('after', view(4, 100))).toBe(false)
  })
  it('waits for the page if it is a part of another size', () => {
    const painter = new Painter()
    painter.attach('after', newCanvas().canvas)
    painter.paint('after', part(1, 50))
    expect(painter.paintNow('after', part(2, 50))).toBe(true)
    expect(painter.paintNow('after', part(3, 60))).toBe(false)
    expect(painter.paintNow('after', view(4, 50))).toBe(false)
  })
  it('is not drawn over a newer one', () => {
    const { fake, canvas } = newCanvas()
    const painter = new Painter()
    painter.attach('after', canvas)
    painter.paint('after', view(5, 20))
    painter.paint('after', view(4, 30))
    expect(fake.painted).toEqual([[20, 20]])
    expect(fake.dataset.render).toBe('5')
  })
  it('makes its canvas busy from the moment it is asked for until it, or a newer one, is there', () => {
    const { fake, canvas } = newCanvas()
    const painter = new Painter()
    painter.awaits('after', 7)
    painter.attach('after', canvas)
    expect(fake.ariaBusy).toBe('true')
    painter.paint('after', view(6, 20))
    expect(fake.ariaBusy).toBe('true')
    painter.paint('after', view(7, 20))
    expect(fake.ariaBusy).toBe('false')
    painter.awaits('after', 8)
    expect(fake.ariaBusy).toBe('true')
    painter.paint('after', view(9, 20))
    expect(fake.ariaBusy).toBe('false')
  })
  it('leaves nothing of one bench at another', () => {
    const { fake, canvas } = newCanvas()
    new Painter().awaits('after', 3)
    new Painter().attach('after', canvas)
    expect(fake.ariaBusy).toBe('false')
  })
})
