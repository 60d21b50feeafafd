/** `*` stands for anything, `?` for one character; case does not matter. Matched step by step, so no pattern can stall it. */
export function isLike(name: string, pattern: string): boolean {
  const [text, glob] = [name.toLowerCase(), pattern.toLowerCase()]
  let [t, g, star, mark] = [0, 0, -1, 0]
  while (t < text.length) {
    if (glob[g] === '*') {
      star = g++
      mark = t
    } else if (g < glob.length && (glob[g] === '?' || glob[g] === text[t])) {
      t++
      g++
    } else if (star >= 0) {
      g = star + 1
      t = ++mark
    } else return false
  }
  while (glob[g] === '*') g++
  return g === glob.length
}
