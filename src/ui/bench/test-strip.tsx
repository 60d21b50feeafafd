'use client'

import { CloseOutlined, MinusOutlined, PlusOutlined } from '@ant-design/icons'
import { Button, Select, Tooltip } from 'antd'
import { type ReactNode, useEffect, useMemo } from 'react'
import { shortNumber } from '@/base/format'
import type { Size } from '@/base/geometry'
import type { WireStep } from '@/macros/history'
import type { Step } from '@/macros/step'
import { findOperation, isShown, type NumberSetting } from '@/operations'
import { StripCanvas } from './picture-canvas'
import type { StripWish } from './stage-flow'
import { useBenchParts } from './store'
import { type Strip, stripLimits, stripValues } from './strip-values'
import styles from './test-strip.module.css'
import type { StripPicture } from './worker/protocol'

const across = 5
const down = 3
const gapPx = 4
const headPx = 40
const captionPx = 22

/** Numeric settings of a step that have a say now. */
export function stripSettings(step: Step): [string, NumberSetting][] {
  const declared = findOperation(step.operation)?.settings ?? {}
  return Object.entries(declared).flatMap(([key, setting]): [string, NumberSetting][] =>
    setting.kind === 'number' && isShown(setting, step.settings, declared) ? [[key, setting]] : [],
  )
}

interface Props {
  step: WireStep
  steps: readonly WireStep[]
  strip: Strip
  room: Size
  pictures: readonly StripPicture[]
  onWish(wish: StripWish): void
}

/** The same true pixels with one setting at five values side by side, or with two as a grid: click the best. */
export function TestStrip({ step, steps, strip, room, pictures, onWish }: Props): ReactNode {
  const { view, set, commitDraft } = useBenchParts('view', 'set', 'commitDraft')
  const settings = stripSettings(step)
  const declared = Object.fromEntries(settings)
  const first = declared[strip.setting]
  const second = strip.second ? declared[strip.second] : undefined
  const cells = useMemo(() => {
    if (!first) return []
    const rows = second && strip.second ? stripValues(second, Number(step.settings[strip.second]), strip.span, down) : [null]
    return rows.flatMap((row) =>
      stripValues(first, Number(step.settings[strip.setting]), strip.span, across).map((column) => ({
        settings: { ...step.settings, [strip.setting]: column, ...(row !== null && strip.second ? { [strip.second]: row } : {}) },
        words: [
          `${shortNumber(column, 2)} ${first.unit}`,
          ...(row !== null && second ? [`${shortNumber(row, 2)} ${second.unit}`] : []),
        ].join(' · '),
      })),
    )
  }, [step.settings, strip, first, second])
  const columns = first ? stripValues(first, Number(step.settings[strip.setting]), strip.span, across).length : 1
  const rows = Math.max(1, cells.length / columns)
  const widthPx = Math.floor((room.width - gapPx * (columns + 1)) / columns)
  const heightPx = Math.floor((room.height - headPx - gapPx) / rows) - captionPx - gapPx
  const { centreX, centreY } = view.kind === 'full' ? view : { centreX: 0.5, centreY: 0.5 }
  const focus = steps.findIndex((other) => other.id === step.id)

  useEffect(() => {
    if (widthPx < 8 || heightPx < 8) return
    onWish({
      variants: cells.map((cell) => steps.map((other) => (other.id === step.id ? { ...other, settings: cell.settings } : other))),
      focus,
      view: { kind: 'region', centreX, centreY, widthPx: widthPx * devicePixelRatio, heightPx: heightPx * devicePixelRatio },
    })
  }, [cells, steps, step.id, focus, centreX, centreY, widthPx, heightPx, onWish])

  const change = (part: Partial<Strip>): void => set({ strip: { ...strip, ...part } })
  const options = settings.map(([value, { label, group }]) => ({ value, label: group ? `${group}: ${label}` : label }))
  return (
    <div className={styles.strip} role="dialog" aria-label="Test strip">
      <div className={styles.head}>
        <b>Test strip</b>
        <Select
          size="small"
          className={styles.choice}
          aria-label="Setting"
          options={options}
          value={strip.setting}
          onChange={(setting) => change({ setting, second: strip.second === setting ? null : strip.second })}
        />
        <span>by</span>
        <Select
          size="small"
          className={styles.choice}
          aria-label="Second setting"
          options={[{ value: '', label: 'nothing else' }, ...options.filter(({ value }) => value !== strip.setting)]}
          value={strip.second ?? ''}
          onChange={(value) => change({ second: value || null })}
        />
        <Tooltip title="Closer together (←)">
          <Button
            size="small"
            icon={<MinusOutlined />}
            aria-label="Closer together"
            onClick={() => change({ span: narrower(strip.span) })}
          />
        </Tooltip>
        <Tooltip title="Further apart (→)">
          <Button size="small" icon={<PlusOutlined />} aria-label="Further apart" onClick={() => change({ span: wider(strip.span) })} />
        </Tooltip>
        <span className={styles.quiet}>
          {view.kind === 'fit' ? 'The middle of the picture at 100 %' : 'The part you looked at, at 100 %'}
        </span>
        <Button size="small" type="text" icon={<CloseOutlined />} aria-label="Close the test strip" onClick={() => set({ strip: null })} />
      </div>
      <div className={styles.cells} style={{ gridTemplateColumns: `repeat(${columns}, 1fr)` }}>
        {cells.map((cell, index) => {
          const isNow = JSON.stringify(cell.settings) === JSON.stringify(step.settings)
          return (
            <button
              key={cell.words}
              type="button"
              className={styles.cell}
              aria-pressed={isNow}
              aria-label={`Take ${cell.words}`}
              onClick={() => {
                commitDraft({ stepId: step.id, edit: { settings: cell.settings } })
                set({ strip: null })
              }}
            >
              <StripCanvas picture={pictures[index]} width={widthPx} height={heightPx} />
              <span>{cell.words}</span>
            </button>
          )
        })}
      </div>
    </div>
  )
}

export const narrower = (span: number): number => Math.max(stripLimits.narrowest, span / stripLimits.factor)
export const wider = (span: number): number => Math.min(stripLimits.widest, span * stripLimits.factor)
