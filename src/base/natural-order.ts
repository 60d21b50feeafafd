/** Accents and case aside, numbers by their value however many digits they have: what is compared first. */
const keyOf = (name: string): string =>
  name
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/\d+/g, (digits) => {
      const value = digits.replace(/^0+(?=\d)/, '')
      return String(value.length).padStart(3, '0') + value
    })

/**
 * Things in natural order of their names: `a2` before `a10`. Names that are alike but for case, accents or leading zeros
 * follow by their code units. Keys are made once, so that a hundred thousand are sorted in a fraction of a second.
 */
export function inNaturalOrder<T>(things: readonly T[], nameOf: (thing: T) => string): T[] {
  const keyed = things.map((thing) => ({ thing, name: nameOf(thing), key: keyOf(nameOf(thing)) }))
  keyed.sort((a, b) => (a.key < b.key ? -1 : a.key > b.key ? 1 : a.name < b.name ? -1 : a.name > b.name ? 1 : 0))
  return keyed.map(({ thing }) => thing)
}
