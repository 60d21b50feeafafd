'use client'

import { EditOutlined } from '@ant-design/icons'
import { Button, Modal } from 'antd'
import { type ReactNode, useEffect, useRef, useState } from 'react'
import SignaturePad, { type SignatureEvent } from 'signature_pad'
import { byteAt } from '@/base/numbers'
import styles from './draw-mark.module.css'

const sheet = { width: 760, height: 320 } as const
/** Drawn finer than it is seen: marks are laid on large pictures. */
const fineness = 3
/** Of a line, in pixels as they are seen: drawn quickly, and slowly. */
const line = { thin: 1.2, thick: 4.5 } as const
/** Kept free around what is drawn, in drawn pixels. */
const marginPx = 12

/** A sheet to draw a mark on by hand: what is drawn becomes a PNG with transparency, no larger than the drawing. */
export function DrawMark({ onDrawn }: { onDrawn(file: File): void }): ReactNode {
  const [open, setOpen] = useState(false)
  return (
    <>
      <Button
        size="small"
        icon={<EditOutlined />}
        aria-label="Draw a mark by hand"
        title="Draw a mark by hand"
        onClick={() => setOpen(true)}
      />
      {/* A click beside the sheet throws no drawing away. */}
      <Modal
        title="Draw a mark"
        open={open}
        onCancel={() => setOpen(false)}
        mask={{ closable: false }}
        width={820}
        footer={null}
        destroyOnHidden
      >
        <Sheet
          onDrawn={(file) => {
            setOpen(false)
            onDrawn(file)
          }}
        />
      </Modal>
    </>
  )
}

function Sheet({ onDrawn }: { onDrawn(file: File): void }): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null)
  const pad = useRef<SignaturePad>(undefined)
  const [strokes, setStrokes] = useState(0)
  useEffect(() => {
    if (!canvas.current) return
    canvas.current.getContext('2d')?.scale(fineness, fineness)
    const made = new SignaturePad(canvas.current, { minWidth: line.thin, maxWidth: line.thick, penColor: '#000000' })
    made.addEventListener('endStroke', () => setStrokes(made.toData().length))
    made.addEventListener('beforeUpdateStroke', (event) => {
      if (!(event instanceof CustomEvent)) return
      const { event: pointer, pressure }: SignatureEvent = event.detail
      // Only a pen tells how hard it is pressed.
      const stroke = pointer instanceof PointerEvent && pointer.pointerType === 'pen' ? made.toData().at(-1) : undefined
      if (stroke) stroke.maxWidth = line.thin + (2 * line.thick - line.thin) * pressure
    })
    pad.current = made
    return () => made.off()
  }, [])
  const undo = (): void => {
    pad.current?.fromData(pad.current.toData().slice(0, -1))
    setStrokes(pad.current?.toData().length ?? 0)
  }
  const clear = (): void => {
    pad.current?.clear()
    setStrokes(0)
  }
  const take = async (): Promise<void> => {
    const blob = canvas.current && (await trimmed(canvas.current))
    if (blob) onDrawn(new File([blob], 'drawn mark.png', { type: 'image/png' }))
  }
  return (
    <>
      <canvas
        ref={canvas}
        className={styles.sheet}
        width={sheet.width * fineness}
        height={sheet.height * fineness}
        aria-label="Sheet to draw on"
      />
      <div className={styles.actions}>
        <span>Black on nothing: the step’s colour setting can make it light or dark on each picture.</span>
        <Button disabled={strokes === 0} onClick={undo}>
          Undo
        </Button>
        <Button disabled={strokes === 0} onClick={clear}>
          Clear
        </Button>
        <Button type="primary" disabled={strokes === 0} onClick={() => void take()}>
          Take it
        </Button>
      </div>
    </>
  )
}

/** What is drawn, without the empty sheet around it, as a PNG; nothing where nothing is. */
async function trimmed(canvas: HTMLCanvasElement): Promise<Blob | null> {
  const { width, height } = canvas
  const { data } = canvas.getContext('2d')?.getImageData(0, 0, width, height) ?? {}
  if (!data) return null
  let [left, top, right, bottom] = [width, height, -1, -1]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (byteAt(data, (y * width + x) * 4 + 3) === 0) continue
      left = Math.min(left, x)
      right = Math.max(right, x)
      top = Math.min(top, y)
      bottom = Math.max(bottom, y)
    }
  if (right < 0) return null
  const part = document.createElement('canvas')
  part.width = right - left + 1 + 2 * marginPx
  part.height = bottom - top + 1 + 2 * marginPx
  part.getContext('2d')?.drawImage(canvas, marginPx - left, marginPx - top)
  return new Promise((done) => part.toBlob(done, 'image/png'))
}
