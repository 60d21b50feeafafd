'use client'

import { Button } from 'antd'
import type { ReactNode } from 'react'
import type { Settings } from '@/operations'
import styles from './desk.module.css'

/** Ratios of paper, sensors and screens. */
const ratios = [
  [1, 1],
  [3, 2],
  [4, 3],
  [5, 4],
  [16, 9],
] as const

/** The usual ratios, one click each. */
export function CropRatios({ settings, onChoose }: { settings: Settings; onChoose(settings: Settings): void }): ReactNode {
  return (
    <div className={styles.ratios}>
      {ratios.map(([ratioWidth, ratioHeight]) => {
        const chosen = settings.ratioWidth === ratioWidth && settings.ratioHeight === ratioHeight
        return (
          <Button
            key={`${ratioWidth}:${ratioHeight}`}
            size="small"
            type={chosen ? 'primary' : 'default'}
            aria-pressed={chosen}
            onClick={() => onChoose({ ...settings, ratioWidth, ratioHeight })}
          >
            {ratioWidth} : {ratioHeight}
          </Button>
        )
      })}
    </div>
  )
}
