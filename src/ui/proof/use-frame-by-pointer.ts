import { type PointerEvent, useEffect, useRef } from 'react'
import type { TouchUp } from '@/jobs/touch-up'
import { useLatest } from '../controls/use-latest'
import { framedStep, type StandingSteps, withFrame, withFrameSize } from './nudges'
import type { ProofState } from './use-proof-state'

/** Of the frame's size, for each notch of a wheel. */
const wheelPercent = 2

interface Options {
  standing(): StandingSteps
  /** The pointer does something else at the moment. */
  isOff: boolean
}

/** Moves and sizes the frame by what the pointer does on the picture. */
export function useFrameByPointer(state: ProofState, { standing, isOff }: Options) {
  const { proof, touchUp } = state
  const grab = useRef<{ x: number; y: number; from: TouchUp; standing: StandingSteps; width: number; height: number } | null>(null)
  const stage = useRef<HTMLElement | null>(null)
  const framed = framedStep(proof.macros)
  const standingNow = () => standing().find(({ stepId }) => stepId === framed?.stepId)

  const start = (event: PointerEvent<HTMLElement>): void => {
    const shown = event.currentTarget.querySelector('canvas, img')?.getBoundingClientRect()
    if (isOff || !shown || !framed || event.button !== 0) return
    event.currentTarget.setPointerCapture(event.pointerId)
    grab.current = { x: event.clientX, y: event.clientY, from: touchUp, standing: standing(), width: shown.width, height: shown.height }
  }
  const follow = (event: PointerEvent<HTMLElement>): void => {
    const held = grab.current
    // A delivered file is shown before it is known how the loop's steps stand on its source.
    if (held?.standing.length === 0) held.standing = standing()
    const now = held && standingNow()
    const size = now && sizeOf(now.constants)
    if (!held || !size) return
    // The picture goes with the pointer, so its frame goes the other way: in per cent of the room it has.
    const percent = (by: number, shown: number, part: number, whole: number): number =>
      whole > part ? (-100 * by * part) / shown / (whole - part) : 0
    const across = percent(event.clientX - held.x, held.width, size.width, now.sizeBefore.width)
    const down = percent(event.clientY - held.y, held.height, size.height, now.sizeBefore.height)
    if (Math.abs(event.clientX - held.x) + Math.abs(event.clientY - held.y) < 3) return
    state.draft(withFrame(held.from, proof.macros, [across, down], held.standing))
  }
  const end = (): void => {
    grab.current = null
  }
  const latest = useLatest({ state, isOff })
  useEffect(() => {
    const element = stage.current
    if (!element) return
    // React listens to wheels passively: the page would scroll.
    const turn = (event: WheelEvent): void => {
      const { touchUp: own, proof: of, draft } = latest.current.state
      if (latest.current.isOff || !framedStep(of.macros)) return
      event.preventDefault()
      draft(withFrameSize(own, of.macros, event.deltaY > 0 ? wheelPercent : -wheelPercent))
    }
    element.addEventListener('wheel', turn, { passive: false })
    return () => element.removeEventListener('wheel', turn)
  }, [latest.current.state, latest.current.isOff])
  return {
    isFramed: framed !== undefined && !isOff,
    handlers: {
      ref: (element: HTMLDivElement | null) => {
        stage.current = element
      },
      onPointerDown: start,
      onPointerMove: follow,
      onPointerUp: end,
      onPointerCancel: end,
    },
  }
}

function sizeOf(constants: Readonly<Record<string, unknown>>): { readonly width: number; readonly height: number } | undefined {
  const { width, height } = constants
  return typeof width === 'number' && typeof height === 'number' ? { width, height } : undefined
}
