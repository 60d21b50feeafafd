'use client'

import { BorderOuterOutlined, WarningOutlined } from '@ant-design/icons'
import { Button, Popover, Segmented, Select, Tooltip } from 'antd'
import { memo, type ReactNode } from 'react'
import { useThemeStore } from '../theme/theme-store'
import { stageGreys } from '../theme/tokens'
import { DeliverFromBench } from './deliver-from-bench'
import styles from './stage.module.css'
import { type BenchView, type Comparison, type Guide, useBenchParts } from './store'
import { TryMacros } from './try-macros'

const comparisonOptions: { value: Comparison; label: string }[] = [
  { value: 'none', label: 'After alone' },
  { value: 'wipe', label: 'Wipe' },
  { value: 'beside', label: 'Side by side' },
  { value: 'difference', label: 'Difference' },
]

const guideOptions: { value: Guide; label: string }[] = [
  { value: 'none', label: 'No lines' },
  { value: 'thirds', label: 'Thirds' },
  { value: 'grid', label: 'Grid' },
  { value: 'diagonals', label: 'Diagonals' },
]

type Zoom = 'fit' | '1' | '2'
const zoomOf = (view: BenchView): Zoom => (view.kind === 'fit' ? 'fit' : (String(view.zoom) as Zoom))

/** The view at another zoom, around the same middle. */
export function zoomed(view: BenchView, zoom: 1 | 2): BenchView {
  const { centreX, centreY } = view.kind === 'full' ? view : { centreX: 0.5, centreY: 0.5 }
  return { kind: 'full', zoom, centreX, centreY }
}

/** How the picture is looked at, and what is read off it. */
export function StageStrip({ children }: { children: ReactNode }): ReactNode {
  return (
    <div className={styles.strip}>
      <WaysToLook />
      <TryMacros />
      <DeliverFromBench />
      {children}
    </div>
  )
}

const WaysToLook = memo(function WaysToLook(): ReactNode {
  const { view, compare, showsClipped, guide, set } = useBenchParts('view', 'compare', 'showsClipped', 'guide', 'set')
  return (
    <>
      <Segmented<Zoom>
        size="small"
        aria-label="Zoom"
        value={zoomOf(view)}
        options={[
          { value: 'fit', label: 'Fit' },
          { value: '1', label: '100 %' },
          { value: '2', label: '200 %' },
        ]}
        onChange={(zoom) => set({ view: zoom === 'fit' ? { kind: 'fit' } : zoomed(view, zoom === '1' ? 1 : 2) })}
      />
      <Tooltip title="Before and after: W wipes, hold Space for the original">
        <Select
          size="small"
          className={styles.choice}
          aria-label="Before and after"
          options={comparisonOptions}
          value={compare}
          onChange={(next) => set({ compare: next })}
        />
      </Tooltip>
      <Tooltip title="Mark clipped pixels (C)">
        <Button
          size="small"
          type={showsClipped ? 'primary' : 'default'}
          icon={<WarningOutlined />}
          aria-label="Mark clipped pixels"
          aria-pressed={showsClipped}
          onClick={() => set({ showsClipped: !showsClipped })}
        />
      </Tooltip>
      <Popover
        trigger="click"
        placement="top"
        content={
          <div className={styles.surround}>
            <Segmented<Guide>
              size="small"
              aria-label="Lines over the picture"
              options={guideOptions}
              value={guide}
              onChange={(next) => set({ guide: next })}
            />
            <div>
              Grey around it <StageGreys />
            </div>
          </div>
        }
      >
        <Button
          size="small"
          type={guide === 'none' ? 'default' : 'primary'}
          icon={<BorderOuterOutlined />}
          aria-label="Lines and surrounding grey"
          title="Lines over the picture, and the grey around it"
        />
      </Popover>
    </>
  )
})

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
