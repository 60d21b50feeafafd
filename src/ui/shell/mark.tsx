import type { ReactNode } from 'react'

/** The mark: a line that comes in, turns once round and goes out again. */
export function Mark({ size = 22 }: { size?: number }): ReactNode {
  return (
    <svg width={size} height={size} viewBox="0 0 32 32" fill="none" aria-hidden="true">
      <path d="M1 23h12a8 8 0 1 0-8-8c0 5 4 8 9 8h17" stroke="var(--wire)" strokeWidth="3" strokeLinecap="round" />
      <circle cx="13" cy="7" r="3" fill="var(--wire)" />
    </svg>
  )
}
