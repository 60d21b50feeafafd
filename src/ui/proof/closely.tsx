import { type PointerEvent, type ReactNode, type RefObject, useCallback, useEffect, useRef, useState } from 'react'
import { clamp } from '@/base/scale'
import type { Step } from '@/macros/step'
import { resultUrl } from '../api/client'
import { useSize } from '../bench/use-size'
import { BenchClient } from '../bench/worker/client'
import type { RenderedView } from '../bench/worker/protocol'
import { useLatest } from '../controls/use-latest'
import styles from './proof.module.css'

/** What is in the middle of the view, as a share of the picture across and down. */
export interface Centre {
  readonly x: number
  readonly y: number
}

interface Props {
  path: string
  /** All that the picture is put through, up to its delivered size. */
  steps: readonly Step[]
  /** Of its delivered file, where that is shown. */
  resultId: number | undefined
  /** Kept by whoever shows this: from picture to picture the same part is looked at. */
  centre: RefObject<Centre>
}

const within = (share: number): number => clamp(share, 0, 1)

/** The picture at 100 %: a pixel of its file is a pixel of the screen. Pulled along, another part is seen. */
export function Closely({ path, steps, resultId, centre }: Props): ReactNode {
  const box = useRef<HTMLDivElement>(null)
  const room = useSize(box, 0)
  return (
    <div ref={box} className={styles.closely}>
      {room.width > 1 &&
        (resultId === undefined ? (
          <Computed path={path} steps={steps} centre={centre} width={room.width} height={room.height} />
        ) : (
          <Delivered resultId={resultId} centre={centre} />
        ))}
    </div>
  )
}

/** Pulling the picture along; `size`: of all of it, in the page's pixels. */
function usePull(centre: RefObject<Centre>, size: () => { readonly width: number; readonly height: number }, moved: () => void) {
  const grab = useRef<{ x: number; y: number; from: Centre } | null>(null)
  const end = (): void => {
    grab.current = null
  }
  return {
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      if (event.button !== 0) return
      event.currentTarget.setPointerCapture(event.pointerId)
      grab.current = { x: event.clientX, y: event.clientY, from: centre.current }
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      const held = grab.current
      if (!held) return
      const { width, height } = size()
      centre.current = {
        x: within(held.from.x - (event.clientX - held.x) / width),
        y: within(held.from.y - (event.clientY - held.y) / height),
      }
      moved()
    },
    onPointerUp: end,
    onPointerCancel: end,
  }
}

interface ComputedProps extends Omit<Props, 'resultId'> {
  width: number
  height: number
}

/** By the same engine as a run, from the source itself. */
function Computed({ path, steps, centre, width, height }: ComputedProps): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null)
  const client = useRef<BenchClient>(null)
  const whole = useRef({ width: 1, height: 1 })
  const [problem, setProblem] = useState<string>()
  const [isThere, setThere] = useState(false)

  const wish = useCallback((): void => {
    const { x: centreX, y: centreY } = centre.current
    const view = { kind: 'region', centreX, centreY, widthPx: width * devicePixelRatio, heightPx: height * devicePixelRatio } as const
    // In focus is what comes behind all steps: the finished picture is kept where it is small.
    client.current?.render('after', { path, steps, focus: steps.length, view, histogram: false })
  }, [path, steps, centre, width, height])
  const latest = useLatest(wish)

  useEffect(() => {
    const paint = ({ pixels, size, fullSize }: RenderedView): void => {
      whole.current = { width: fullSize.width / devicePixelRatio, height: fullSize.height / devicePixelRatio }
      if (canvas.current) {
        canvas.current.width = size.width
        canvas.current.height = size.height
        canvas.current.style.width = `${size.width / devicePixelRatio}px`
        canvas.current.getContext('2d')?.putImageData(new ImageData(pixels, size.width, size.height), 0, 0)
      }
      setProblem(undefined)
      setThere(true)
    }
    const made = new BenchClient({
      opened: () => undefined,
      failed: ({ sentence }) => setProblem(sentence),
      rendered: (_, view) => paint(view),
      beads: () => undefined,
      strip: () => undefined,
      times: () => undefined,
    })
    client.current = made
    latest.current()
    return () => made.close()
  }, [latest.current])
  useEffect(wish, [wish])
  const pull = usePull(centre, () => whole.current, wish)
  return (
    <>
      <canvas ref={canvas} data-testid="true-pixels" hidden={!isThere || problem !== undefined} {...pull} />
      {problem !== undefined ? (
        <p className={styles.waiting}>{problem}</p>
      ) : (
        !isThere && <p className={styles.waiting}>The whole picture is being read …</p>
      )}
    </>
  )
}

/** The delivered file itself. */
function Delivered({ resultId, centre }: Pick<Props, 'centre'> & { resultId: number }): ReactNode {
  const image = useRef<HTMLImageElement>(null)
  const place = (): void => {
    const element = image.current
    if (!element) return
    element.style.width = `${element.naturalWidth / devicePixelRatio}px`
    element.style.translate = `${(0.5 - centre.current.x) * 100}% ${(0.5 - centre.current.y) * 100}%`
  }
  const size = () => ({ width: image.current?.width || 1, height: image.current?.height || 1 })
  return (
    <div className={styles.whole} {...usePull(centre, size, place)}>
      {/* biome-ignore lint/performance/noImgElement: the delivered file as it is, nothing is to be optimised */}
      <img ref={image} src={resultUrl(resultId)} alt="As it was delivered, at 100 %" onLoad={place} draggable={false} />
    </div>
  )
}
