'use client'

import type { ReactNode } from 'react'
import styles from './controls.module.css'

const places = [0, 50, 100] as const
const names = { 0: ['left', 'top'], 50: ['centre', 'middle'], 100: ['right', 'bottom'] } as const

/** The nine usual positions, as points of a small frame. */
export function NinePoints({
  across,
  down,
  onChoose,
}: {
  across: number
  down: number
  onChoose(across: number, down: number): void
}): ReactNode {
  return (
    <div className={styles.row}>
      <span className={styles.label}>Position</span>
      <fieldset className={styles.nine} aria-label="Position">
        {places.map((y) =>
          places.map((x) => (
            <button
              key={`${x} ${y}`}
              type="button"
              aria-label={`${names[y][1]} ${names[x][0]}`}
              aria-pressed={x === across && y === down}
              onClick={() => onChoose(x, y)}
            />
          )),
        )}
      </fieldset>
    </div>
  )
}
