import { type RefObject, useRef } from 'react'

/** The value of the last time that this was drawn, for what happens later and must not be made anew with every value. */
export function useLatest<T>(value: T): RefObject<T> {
  const latest = useRef(value)
  latest.current = value
  return latest
}
