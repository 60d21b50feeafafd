'use client'

import { type CSSProperties, type ReactNode, use, useEffect, useRef } from 'react'
import { draw } from './painter'
import { PainterContext } from './painter-context'
import type { RenderLane } from './worker/client'
import type { RenderedView, StripPicture } from './worker/protocol'

interface Props {
  view: RenderedView
  style: CSSProperties
  label: string
  /** Also draws what comes in for this lane, before the page knows of it. */
  lane?: RenderLane
}

/** Draws a rendered view, one of its pixels to one of the canvas; the style sets its size on the page. */
export function PictureCanvas({ view, style, label, lane }: Props): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null)
  const painter = use(PainterContext)
  useEffect(() => (lane && canvas.current ? painter?.attach(lane, canvas.current) : undefined), [painter, lane])
  useEffect(() => {
    if (lane) painter?.paint(lane, view)
    else if (canvas.current) draw(canvas.current, view)
  }, [painter, lane, view])
  return <canvas ref={canvas} style={style} role="img" aria-label={label} />
}

/** A piece of a test strip; empty until it is there. */
export function StripCanvas({ picture, width, height }: { picture: StripPicture | undefined; width: number; height: number }): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    if (!canvas.current || !picture) return
    canvas.current.width = picture.size.width
    canvas.current.height = picture.size.height
    canvas.current
      .getContext('2d', { alpha: false })
      ?.putImageData(new ImageData(picture.pixels, picture.size.width, picture.size.height), 0, 0)
  }, [picture])
  return (
    <canvas
      ref={canvas}
      style={{ width, height, objectFit: 'none', visibility: picture ? undefined : 'hidden' }}
      data-drawn={picture ? true : undefined}
    />
  )
}
