import { isLike } from '@/base/wildcards'

/* Ticking among pictures that lie in a row: which are ticked, and where the last tick was. */

export interface Picking {
  readonly picked: ReadonlySet<string>
  /** Where a range begins: the picture that was ticked or let go last, by index. */
  readonly anchor: number
}

export const picking = (picked: readonly string[]): Picking => ({ picked: new Set(picked), anchor: 0 })

const withAll = (picked: ReadonlySet<string>, paths: readonly string[], isPicked: boolean): ReadonlySet<string> => {
  const next = new Set(picked)
  for (const path of paths) isPicked ? next.add(path) : next.delete(path)
  return next
}

/** Ticks a picture, or lets it go. */
export const toggle = ({ picked }: Picking, paths: readonly string[], index: number): Picking => {
  const path = paths[index]
  return path === undefined ? { picked, anchor: index } : { picked: withAll(picked, [path], !picked.has(path)), anchor: index }
}

/** Brings all from the last one to this one to the state of the last one. */
export const extend = ({ picked, anchor }: Picking, paths: readonly string[], index: number): Picking => {
  const [from, to] = [Math.min(anchor, index), Math.max(anchor, index)]
  const isPicked = picked.has(paths[anchor] ?? '')
  return { picked: withAll(picked, paths.slice(from, to + 1), isPicked), anchor: index }
}

export const pickAll = ({ picked, anchor }: Picking, paths: readonly string[], isPicked: boolean): Picking => ({
  picked: withAll(picked, paths, isPicked),
  anchor,
})

export const invert = ({ picked, anchor }: Picking, paths: readonly string[]): Picking => {
  const letGo = paths.filter((path) => picked.has(path))
  return { picked: withAll(withAll(picked, paths, true), letGo, false), anchor }
}

/** The pictures that a pattern means: `*` stands for anything, `?` for one sign; without either, a part of the name is enough. */
export const meantBy = <P extends { readonly relativePath: string }>(pictures: readonly P[], pattern: string): readonly P[] => {
  const wanted = pattern.trim()
  if (wanted === '') return pictures
  const whole = /[*?]/.test(wanted) ? wanted : `*${wanted}*`
  return pictures.filter(
    ({ relativePath }) => isLike(relativePath, whole) || isLike(relativePath.slice(relativePath.lastIndexOf('/') + 1), whole),
  )
}
