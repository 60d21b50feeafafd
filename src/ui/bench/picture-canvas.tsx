'use client'

import { type CSSProperties, type ReactNode, useEffect, useRef } from 'react'
import type { RenderedView, StripPicture } from './worker/protocol'

/** Draws a rendered view, one of its pixels to one of the canvas; the style sets its size on the page. */
export function PictureCanvas({ view, style, label }: { view: RenderedView; style: CSSProperties; label: string }): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const element = canvas.current
    const context = element?.getContext('2d', { alpha: false })
    if (!element || !context) return
    const { width, height } = view.size
    if (element.width !== width || element.height !== height) {
      element.width = width
      element.height = height
    }
    context.putImageData(new ImageData(view.pixels, width, height), 0, 0)
    element.dataset.render = String(view.id)
  }, [view])
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
