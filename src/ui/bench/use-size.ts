import { type RefObject, useEffect, useState } from 'react'
import type { Size } from '@/base/geometry'

/** Space left around the picture, in CSS pixels. */
const usualMargin = 16

/** The room inside an element, followed as it changes; held for a moment so that a drag of the window renders once. */
export function useSize(box: RefObject<HTMLElement | null>, margin = usualMargin): Size {
  const [room, setRoom] = useState<Size>({ width: 0, height: 0 })
  useEffect(() => {
    const element = box.current
    if (!element) return
    let timer: ReturnType<typeof setTimeout> | undefined
    const measure = (): void => {
      const width = Math.max(1, element.clientWidth - 2 * margin)
      const height = Math.max(1, element.clientHeight - 2 * margin)
      setRoom((before) => (before.width === width && before.height === height ? before : { width, height }))
    }
    const observer = new ResizeObserver(() => {
      clearTimeout(timer)
      timer = setTimeout(measure, 60)
    })
    observer.observe(element)
    measure()
    return () => {
      clearTimeout(timer)
      observer.disconnect()
    }
  }, [box, margin])
  return room
}
