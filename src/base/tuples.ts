/* Pairs and triples that stay what they are when each of them is turned into something else. */

export const mapPair = <T, U>([a, b]: readonly [T, T], turn: (value: T) => U): [U, U] => [turn(a), turn(b)]

export const mapTriple = <T, U>([a, b, c]: readonly [T, T, T], turn: (value: T, index: 0 | 1 | 2) => U): [U, U, U] => [
  turn(a, 0),
  turn(b, 1),
  turn(c, 2),
]

/** Three of a kind, by index. */
export const triple = <T>(make: (index: 0 | 1 | 2) => T): [T, T, T] => [make(0), make(1), make(2)]
