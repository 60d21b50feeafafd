'use client'

import { Alert, Skeleton } from 'antd'
import { type PointerEvent, type ReactNode, type RefObject, useState, type WheelEvent } from 'react'
import type { Size } from '@/base/geometry'
import { isRawName } from '@/jobs/picture-names'
import type { WireStep } from '@/macros/history'
import { findOperation } from '@/operations'
import { thumbnailUrl } from '../api/client'
import { useThemeStore } from '../theme/theme-store'
import { stageGreys } from '../theme/tokens'
import { CropHandles } from './crop-handles'
import { StageHandles } from './handles/stage-handles'
import { PictureCanvas } from './picture-canvas'
import { type PointerPlace, Readout } from './readout'
import type { Scope } from './scope'
import styles from './stage.module.css'
import type { StagePictures } from './stage-flow'
import { ClippedLayer, DifferenceLayer, GuideLines, LimitLayer } from './stage-overlays'
import { StageStrip } from './stage-strip'
import { type BenchView, isRawOnItsWay, useBench, useBenchParts } from './store'
import { WipeLine } from './wipe-line'
import type { RenderedView } from './worker/protocol'

interface Props {
  pictures: StagePictures
  box: RefObject<HTMLDivElement | null>
  /** Room for one picture, in CSS pixels. */
  room: Size
  scope: Scope
  /** The step in hand, with what is being changed on it. */
  step: WireStep | undefined
  /** What lies over the whole room. */
  children?: ReactNode
}

/** The picture, large, on neutral grey. */
export function Stage({ pictures, box, room, scope, step, children }: Props): ReactNode {
  const { view, compare, holdingOriginal, sample } = useBenchParts('view', 'compare', 'holdingOriginal', 'sample')
  const waits = useBench(isRawOnItsWay)
  const grey = stageGreys[useThemeStore((state) => state.stageGrey)]
  const [place, setPlace] = useState<PointerPlace | null>(null)
  const { after, before } = pictures
  const sizeOf = (rendered: RenderedView): Size =>
    view.kind === 'full' ? trueSize(rendered.size, view.zoom) : fittedSize(rendered.fullSize, room)
  const beside = compare === 'beside' && before && !scope.cropping
  return (
    <section className={styles.stage} aria-label="Stage">
      <div
        ref={box}
        className={styles.room}
        data-beside={beside ? true : undefined}
        style={{ background: grey, ...{ '--stage-grey': grey } }}
      >
        {sample?.error && (
          <Alert className={styles.problem} type="error" showIcon title="This picture can’t be shown" description={sample.error} />
        )}
        {!after && !sample?.error && sample && <FirstLook key={sample.path} path={sample.path} room={room} />}
        {after && !sample?.error && (
          <>
            {beside && (
              <PannedPicture view={before} shown={sizeOf(before)} onPlace={setPlace} testId="before">
                <PictureCanvas view={before} style={sizeOf(before)} label="The picture before the steps" />
                <span className={styles.badge}>Before</span>
              </PannedPicture>
            )}
            <PannedPicture view={after} shown={sizeOf(after)} onPlace={setPlace} testId="picture">
              <PictureLayers pictures={{ after, before }} shown={sizeOf(after)} scope={scope} step={step} />
              {beside && !holdingOriginal && <span className={styles.badge}>After</span>}
            </PannedPicture>
            {waits && view.kind === 'full' && (
              <span className={styles.badge} data-low role="status">
                True pixels follow: the raw file is being decoded
              </span>
            )}
          </>
        )}
        {children}
      </div>
      <StageStrip>
        <Readout pictures={pictures} place={place} />
      </StageStrip>
    </section>
  )
}

/** Until the picture itself is there. A raw file takes seconds: what the camera put into it is there sooner. */
function FirstLook({ path, room }: { path: string; room: Size }): ReactNode {
  const [isThere, setIsThere] = useState(false)
  return (
    <>
      {!isThere && <Skeleton.Node active style={{ width: room.width * 0.6, height: room.height * 0.7 }} />}
      {isRawName(path) && (
        <>
          {/* biome-ignore lint/performance/noImgElement: made small by our own route, nothing is left to optimise */}
          <img
            className={styles.firstLook}
            src={thumbnailUrl(path, 1280)}
            alt="As the camera showed it"
            style={{ opacity: isThere ? 1 : 0 }}
            onLoad={() => setIsThere(true)}
          />
          {isThere && <span className={styles.badge}>Preview: the raw file is being decoded</span>}
        </>
      )}
    </>
  )
}

interface LayersProps {
  pictures: { readonly after: RenderedView; readonly before: RenderedView | null }
  shown: Size
  scope: Scope
  step: WireStep | undefined
}

/** The picture after the steps with all that lies over it. */
function PictureLayers({ pictures: { after, before }, shown, scope, step }: LayersProps): ReactNode {
  const { compare, wipeAt, holdingOriginal, showsClipped, showsLimit, guide, tool, setDraft, commitDraft, set } = useBenchParts(
    'compare',
    'wipeAt',
    'holdingOriginal',
    'showsClipped',
    'showsLimit',
    'guide',
    'tool',
    'setDraft',
    'commitDraft',
    'set',
  )
  const wipes = compare === 'wipe' && !holdingOriginal && !scope.cropping
  const edits = !holdingOriginal && step
  const frame = step && findOperation(step.operation)?.frame
  return (
    <>
      <PictureCanvas view={after} style={shown} label="The picture after the steps" lane="after" />
      {compare === 'difference' && before && !scope.cropping && <DifferenceLayer view={after} before={before} style={shown} />}
      {showsClipped && !holdingOriginal && <ClippedLayer view={after} style={shown} />}
      {after.mask && (showsLimit || tool?.kind === 'brush') && !holdingOriginal && <LimitLayer view={after} style={shown} />}
      {before && (holdingOriginal || wipes) && (
        <div className={styles.before} style={{ width: holdingOriginal ? '100%' : `${wipeAt * 100}%` }}>
          <PictureCanvas view={before} style={shown} label="The picture before the steps" />
        </div>
      )}
      <GuideLines guide={guide} shown={shown} />
      {wipes && before && <WipeLine at={wipeAt} onMove={(at) => set({ wipeAt: at })} />}
      {scope.cropping && edits && frame && (
        <CropHandles
          frame={frame}
          settings={edits.settings}
          picture={after.fullSize}
          shown={shown}
          onDraft={(settings) => setDraft({ stepId: edits.id, edit: { settings } })}
          onCommit={(settings) => commitDraft({ stepId: edits.id, edit: { settings } })}
        />
      )}
      {scope.handles && edits && <StageHandles step={edits} view={after} shown={shown} />}
      {holdingOriginal && <span className={styles.badge}>Original</span>}
    </>
  )
}

interface PannedProps {
  view: RenderedView
  shown: Size
  testId: string
  onPlace(place: PointerPlace | null): void
  children: ReactNode
}

/** A picture that is moved by pulling it where it is larger than its room, and zoomed by pinching or with Ctrl and the wheel. */
function PannedPicture({ view: rendered, shown, testId, onPlace, children }: PannedProps): ReactNode {
  const { view, set } = useBenchParts('view', 'set')
  const isFull = view.kind === 'full'
  const follow = (event: PointerEvent<HTMLElement>): void => {
    onPlace(placeIn(event))
    if (isFull && event.currentTarget.hasPointerCapture(event.pointerId)) set({ view: panned(view, rendered, event) })
  }
  const pinch = (event: WheelEvent<HTMLElement>): void => {
    if (!event.ctrlKey) return
    set({ view: pinched(view, rendered, placeIn(event), event.deltaY) })
  }
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: what the pointer does here, the zoom buttons and shortcuts do too
    <div
      className={styles.picture}
      style={isFull ? { ...shown, cursor: 'grab', touchAction: 'none' } : shown}
      data-testid={testId}
      data-zoomed={isFull && view.zoom > 1 ? true : undefined}
      onPointerDown={isFull ? (event) => event.currentTarget.setPointerCapture(event.pointerId) : undefined}
      onPointerMove={follow}
      onPointerLeave={() => onPlace(null)}
      onWheel={pinch}
      onDoubleClick={(event) => set({ view: isFull ? { kind: 'fit' } : lookedAt(rendered, placeIn(event), 1) })}
    >
      {children}
    </div>
  )
}

const density = (): number => (typeof devicePixelRatio === 'number' ? devicePixelRatio : 1)

function panned(view: Extract<BenchView, { kind: 'full' }>, { rect, fullSize }: RenderedView, event: PointerEvent): BenchView {
  const move = (centre: number, by: number, part: number, whole: number): number =>
    Math.min(1 - part / whole / 2, Math.max(part / whole / 2, centre - (by * density()) / view.zoom / whole))
  return {
    ...view,
    centreX: move(view.centreX, event.movementX, rect.width, fullSize.width),
    centreY: move(view.centreY, event.movementY, rect.height, fullSize.height),
  }
}

/** The view at a zoom with a place of the shown part in its middle. */
function lookedAt({ rect, fullSize }: RenderedView, { x, y }: PointerPlace, zoom: 1 | 2): BenchView {
  return {
    kind: 'full',
    zoom,
    centreX: (rect.x + x * rect.width) / fullSize.width,
    centreY: (rect.y + y * rect.height) / fullSize.height,
  }
}

/** Spreading goes in by a step, to 100 % and 200 %; pinching comes back out. */
function pinched(view: BenchView, rendered: RenderedView, place: PointerPlace, deltaY: number): BenchView {
  if (deltaY < 0) return view.kind === 'fit' ? lookedAt(rendered, place, 1) : view.zoom === 1 ? lookedAt(rendered, place, 2) : view
  return view.kind === 'full' && view.zoom === 2 ? { ...view, zoom: 1 } : { kind: 'fit' }
}

const placeIn = (event: { clientX: number; clientY: number; currentTarget: HTMLElement }): PointerPlace => {
  const bounds = event.currentTarget.getBoundingClientRect()
  return { x: (event.clientX - bounds.left) / bounds.width, y: (event.clientY - bounds.top) / bounds.height }
}

/** One picture pixel on one screen pixel, or on two. */
function trueSize({ width, height }: Size, zoom: number): Size {
  return { width: (width * zoom) / density(), height: (height * zoom) / density() }
}

/** As large as the room allows, but not beyond 100 %. */
function fittedSize({ width, height }: Size, room: Size): Size {
  const scale = Math.min(room.width / width, room.height / height, 1)
  return { width: Math.round(width * scale), height: Math.round(height * scale) }
}
