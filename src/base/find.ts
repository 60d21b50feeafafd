/** Something that is found by its words. */
export interface Findable {
  readonly name: string
  /** What it is for. */
  readonly about: string
  /** What others call it: words and phrases, with commas between. */
  readonly also?: string | undefined
}

/** How well a word fits: in the name best, then as what others call it, then in what it is for; 0: not at all. */
function fitOf({ name, about, also = '' }: Findable, word: string): number {
  const title = name.toLowerCase()
  if (title.split(/\W+/).some((part) => part === word)) return 5
  if (title.split(/\W+/).some((part) => part.startsWith(word))) return 4
  const others = also.toLowerCase().split(/[,\s]+/)
  if (others.includes(word)) return 4
  if (title.includes(word)) return 3
  if (others.some((part) => part.startsWith(word))) return 2
  return about.toLowerCase().includes(word) ? 1 : 0
}

/** What has all the words, that which they fit best first. Nothing wanted: all of it, as it stands. */
export function find<T extends Findable>(all: readonly T[], wanted: string): T[] {
  const phrase = wanted.trim().toLowerCase()
  const words = phrase.split(/\s+/).filter(Boolean)
  if (words.length === 0) return [...all]
  const scored = all.flatMap((one) => {
    const fits = words.map((word) => fitOf(one, word))
    if (fits.includes(0)) return []
    const isPhrase = [one.name, ...(one.also ?? '').split(',')].some((name) => name.trim().toLowerCase() === phrase)
    return [{ one, score: fits.reduce((sum, fit) => sum + fit, 0) / words.length + (isPhrase ? 5 : 0) }]
  })
  return scored.toSorted((a, b) => b.score - a.score).map(({ one }) => one)
}
