'use client'

import { BorderInnerOutlined, ExpandOutlined, SwapOutlined } from '@ant-design/icons'
import { Alert, Button, Segmented, Skeleton, Tooltip } from 'antd'
import { type PointerEvent, type ReactNode, type RefObject, useRef, useState } from 'react'
import type { Size } from '@/core/geometry'
import type { Settings } from '@/operations'
import { useThemeStore } from '../theme/theme-store'
import { stageGreys } from '../theme/tokens'
import { CropHandles } from './crop-handles'
import { PictureCanvas } from './picture-canvas'
import { Readout } from './readout'
import styles from './stage.module.css'
import { useBench } from './store'
import type { StagePictures } from './use-stage-pictures'

interface Props {
  pictures: StagePictures
  box: RefObject<HTMLDivElement | null>
  /** The stage's room, in CSS pixels. */
  room: Size
  /** Settings of the crop step in hand, whose frame is drawn on the stage. */
  cropping: Settings | null
}

/** Where the pointer is over the picture, as shares of what is shown. */
export interface PointerPlace {
  readonly x: number
  readonly y: number
}

/** The picture, large, on neutral grey. */
export function Stage({ pictures, box, room, cropping }: Props): ReactNode {
  const bench = useBench()
  const { view, wipe, wipeAt, holdingOriginal, sample, selectedId, setDraft, commitDraft, set } = bench
  const grey = stageGreys[useThemeStore((state) => state.stageGrey)]
  const [place, setPlace] = useState<PointerPlace | null>(null)
  const { after, before } = pictures
  const shownSize = after && (view.kind === 'full' ? trueSize(after.size) : fittedSize(after.fullSize, room))
  const showsBefore = before && (holdingOriginal || wipe) && !cropping

  return (
    <section className={styles.stage} aria-label="Stage">
      <div ref={box} className={styles.room} style={{ background: grey }}>
        {sample?.error && (
          <Alert className={styles.problem} type="error" showIcon title="This picture can’t be shown" description={sample.error} />
        )}
        {!after && !sample?.error && sample && <Skeleton.Node active style={{ width: room.width * 0.6, height: room.height * 0.7 }} />}
        {after && shownSize && !sample?.error && (
          <div
            className={styles.picture}
            style={shownSize}
            data-testid="picture"
            onPointerMove={(event) => setPlace(placeIn(event))}
            onPointerLeave={() => setPlace(null)}
            {...panning(view.kind === 'full')}
          >
            <PictureCanvas view={after} style={shownSize} label="The picture after the steps" />
            {showsBefore && (
              <div className={styles.before} style={{ width: holdingOriginal ? '100%' : `${wipeAt * 100}%` }}>
                <PictureCanvas view={before} style={shownSize} label="The picture before the steps" />
              </div>
            )}
            {wipe && !holdingOriginal && before && !cropping && <WipeLine at={wipeAt} onMove={(at) => set({ wipeAt: at })} />}
            {cropping && selectedId && (
              <CropHandles
                settings={cropping}
                picture={after.fullSize}
                shown={shownSize}
                onDraft={(settings) => setDraft({ stepId: selectedId, edit: { settings } })}
                onCommit={(settings) => commitDraft({ stepId: selectedId, edit: { settings } })}
              />
            )}
            {holdingOriginal && <span className={styles.badge}>Original</span>}
          </div>
        )}
      </div>
      <div className={styles.strip}>
        <Segmented
          size="small"
          aria-label="Zoom"
          value={view.kind}
          options={[
            { value: 'fit', label: 'Fit', icon: <ExpandOutlined /> },
            { value: 'full', label: '100 %', icon: <BorderInnerOutlined /> },
          ]}
          onChange={(kind) => set({ view: kind === 'fit' ? { kind: 'fit' } : { kind: 'full', centreX: 0.5, centreY: 0.5 } })}
        />
        <Tooltip title="Wipe between before and after (W). Hold Space for the original.">
          <Button
            size="small"
            type={wipe ? 'primary' : 'default'}
            icon={<SwapOutlined />}
            aria-pressed={wipe}
            onClick={() => set({ wipe: !wipe })}
          >
            Wipe
          </Button>
        </Tooltip>
        <StageGreys />
        <Readout pictures={pictures} place={place} />
      </div>
    </section>
  )

  function panning(active: boolean): Record<string, unknown> {
    if (!active || !after) return {}
    return {
      style: { ...shownSize, cursor: 'grab', touchAction: 'none' },
      onPointerDown: (event: PointerEvent<HTMLElement>) => event.currentTarget.setPointerCapture(event.pointerId),
      onPointerMove: (event: PointerEvent<HTMLElement>) => {
        setPlace(placeIn(event))
        if (view.kind !== 'full' || !event.currentTarget.hasPointerCapture(event.pointerId)) return
        const move = (centre: number, by: number, part: number, whole: number): number =>
          Math.min(1 - part / whole / 2, Math.max(part / whole / 2, centre - (by * devicePixelRatio) / whole))
        set({
          view: {
            kind: 'full',
            centreX: move(view.centreX, event.movementX, after.rect.width, after.fullSize.width),
            centreY: move(view.centreY, event.movementY, after.rect.height, after.fullSize.height),
          },
        })
      },
    }
  }
}

const placeIn = (event: PointerEvent<HTMLElement>): PointerPlace => {
  const bounds = event.currentTarget.getBoundingClientRect()
  return { x: (event.clientX - bounds.left) / bounds.width, y: (event.clientY - bounds.top) / bounds.height }
}

/** One picture pixel on one screen pixel. */
function trueSize({ width, height }: Size): Size {
  const ratio = typeof devicePixelRatio === 'number' ? devicePixelRatio : 1
  return { width: width / ratio, height: height / ratio }
}

/** As large as the room allows, but not beyond 100 %. */
function fittedSize({ width, height }: Size, room: Size): Size {
  const scale = Math.min(room.width / width, room.height / height, 1)
  return { width: Math.round(width * scale), height: Math.round(height * scale) }
}

function WipeLine({ at, onMove }: { at: number; onMove(at: number): void }): ReactNode {
  const line = useRef<HTMLDivElement>(null)
  const follow = (event: PointerEvent<HTMLElement>): void => {
    const bounds = line.current?.parentElement?.getBoundingClientRect()
    if (bounds && event.currentTarget.hasPointerCapture(event.pointerId))
      onMove(Math.min(1, Math.max(0, (event.clientX - bounds.left) / bounds.width)))
    event.stopPropagation()
  }
  return (
    <div
      ref={line}
      className={styles.wipe}
      style={{ left: `${at * 100}%` }}
      role="slider"
      tabIndex={0}
      aria-label="Wipe"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(at * 100)}
      onPointerDown={(event) => {
        event.stopPropagation()
        event.currentTarget.setPointerCapture(event.pointerId)
      }}
      onPointerMove={follow}
      onKeyDown={(event) => {
        const step = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key]
        if (step) onMove(Math.min(1, Math.max(0, at + step)))
      }}
    />
  )
}

function StageGreys(): ReactNode {
  const { stageGrey, setStageGrey } = useThemeStore()
  return (
    <fieldset className={styles.greys} aria-label="Grey around the picture">
      {stageGreys.map((grey, index) => (
        <button
          key={grey}
          type="button"
          aria-label={`Grey ${index + 1} of ${stageGreys.length}`}
          aria-pressed={index === stageGrey}
          onClick={() => setStageGrey(index)}
        >
          <span style={{ background: grey }} />
        </button>
      ))}
    </fieldset>
  )
}
