// Reads a JPEG's entropy-coded scan to its end (ITU-T T.81, annex F.2.2) and says whether an encoder can have written it.
// No pixel is made of it. A decoder goes on over bits that were changed, since nearly every row of bits is some code;
// what shows the change is a block of more than 64 coefficients, a mean that no picture has, or a scan that ends too
// early or too late.

/** Bits of a code that one look-up reads; longer codes are compared length by length. */
const quickBits: i32 = 10
const quickBytes: usize = 2048
/** A table: look-ups of `quickBits` bits (length << 8 | symbol, 0 for longer codes), then, by length 0–16, the largest code and the place of its symbol less the code, then the symbols. */
const largestAt: usize = quickBytes
const offsetAt: usize = quickBytes + 68
const symbolsAt: usize = quickBytes + 136
const tableBytes: usize = 2560
const longestCode: i32 = 16

/** Bits that are read at once where whole stretches of coefficients lie in them. */
const stretchBits: i32 = 12
const stretchBytes: usize = 8192

/** Categories of differences of means and of coefficients in pictures of 8 bits (T.81, tables F.1 and F.2). */
const maxMeanCategory: i32 = 11
const maxCategory: i32 = 10
/** Beyond this place of a block there is no further end to be read: it ends with its last coefficient. */
const maxReach: i32 = 62

const predictions = memory.data(16)

/** Bits read ahead: the lowest `have` of `bits`; the last `borrowed` of them stand behind the scan's end and are zero. */
let bits: u64 = 0
let have: i32 = 0
let borrowed: i32 = 0
let at: usize = 0
let end: usize = 0

function fill(): void {
  if (at + 4 <= end) {
    const word = load<u32>(at)
    // No byte of it is 0xff.
    if (((~word - 0x01010101) & word & 0x80808080) == 0) {
      bits = (bits << 32) | <u64>bswap<u32>(word)
      have += 32
      at += 4
      return
    }
  }
  for (let i = 0; i < 4; i++) {
    let byte: u32 = 0
    if (at >= end) borrowed += 8
    else {
      byte = load<u8>(at)
      if (byte != 0xff) at++
      else if (at + 1 < end && load<u8>(at + 1) == 0) at += 2
      else {
        // A marker: the scan, or its interval, ends before it.
        byte = 0
        borrowed += 8
      }
    }
    bits = (bits << 8) | byte
    have += 8
  }
}

/** The next symbol by a table, of a code longer than `quickBits`; −1 for bits that are no code. */
function longSymbol(table: usize): i32 {
  for (let length = quickBits + 1; length <= longestCode; length++) {
    const code = <i32>((bits >> (have - length)) & ((1 << length) - 1))
    if (code <= load<i32>(table + largestAt + (length << 2))) {
      have -= length
      return load<u8>(table + symbolsAt + <usize>(code + load<i32>(table + offsetAt + (length << 2))))
    }
  }
  return -1
}

/**
 * What the next `stretchBits` bits hold of coefficients, by a table of theirs: how many bits that are | how far they reach << 4 | whether
 * the block ends with them << 12. 0 where not even one lies in them whole, or it is none.
 */
function stretchOf(table: usize, ahead: i32): i32 {
  const mask = (1 << stretchBits) - 1
  let used = 0
  let reach = 0
  for (;;) {
    const entry = <i32>load<u16>(table + (<usize>(((ahead << used) & mask) >> (stretchBits - quickBits)) << 1))
    const length = entry >> 8
    const size = entry & 15
    const run = (entry >> 4) & 15
    if (entry == 0 || used + length + size > stretchBits || size > maxCategory) break
    if (size == 0 && run == 0) return (used + length) | (reach << 4) | (1 << 12)
    if ((size == 0 && run != 15) || reach + run + 1 > maxReach) break
    used += length + size
    reach += run + 1
  }
  return used | (reach << 4)
}

function layStretches(table: usize, to: usize): void {
  for (let ahead = 0; ahead < 1 << stretchBits; ahead++) store<u16>(to + (<usize>ahead << 1), <u16>stretchOf(table, ahead))
}

/** The entry of a table for the next bits. */
// @ts-ignore: decorator
@inline
function entryFor(table: usize, ahead: u64, count: i32): i32 {
  return <i32>load<u16>(table + ((<usize>(ahead >> (count - quickBits)) & ((1 << quickBits) - 1)) << 1))
}

/**
 * One block of a component: whether it is sound. The bits read ahead are held in locals meanwhile. 32 of them are enough for
 * a code of 16 and what follows it.
 */
function block(meanTable: usize, table: usize, stretches: usize, prediction: usize, maxMean: i32): bool {
  if (have < 32) fill()
  let entry = entryFor(meanTable, bits, have)
  let category = entry & 255
  if (entry != 0) have -= entry >> 8
  else category = longSymbol(meanTable)
  if (category < 0 || category > maxMeanCategory) return false
  if (category > 0) {
    have -= category
    let difference = <i32>((bits >> have) & ((1 << category) - 1))
    if (difference < 1 << (category - 1)) difference -= (1 << category) - 1
    const mean = load<i32>(prediction) + difference
    if (mean > maxMean || mean < -maxMean) return false
    store<i32>(prediction, mean)
  }
  let ahead = bits
  let count = have
  for (let k = 1; k < 64; k++) {
    if (count < 32) {
      have = count
      fill()
      ahead = bits
      count = have
    }
    const stretch = <i32>load<u16>(stretches + ((<usize>(ahead >> (count - stretchBits)) & ((1 << stretchBits) - 1)) << 1))
    const reached = k - 1 + ((stretch >> 4) & 63)
    if (stretch != 0 && reached <= maxReach) {
      count -= stretch & 15
      if (stretch >> 12) break
      k = reached
      continue
    }
    entry = entryFor(table, ahead, count)
    let pair = entry & 255
    if (entry != 0) count -= entry >> 8
    else {
      have = count
      pair = longSymbol(table)
      count = have
      if (pair < 0) return false
    }
    const size = pair & 15
    const run = pair >> 4
    if (size == 0) {
      // The end of the block; or sixteen zeros, of which this one is the first.
      if (run == 0) break
      if (run != 15) return false
      k += 15
      if (k > 62) return false
    } else {
      k += run
      if (k > 63 || size > maxCategory) return false
      count -= size
    }
  }
  have = count
  return true
}

/** Whether nothing stands between here and the next marker but padding. Then `at` is at the marker. */
function padded(): bool {
  const left = have - borrowed
  if (left < 0) return false
  // The last byte is filled up with bits of any value; whole bytes behind it are all ones or all zeros.
  for (let i = left >> 3; i > 0; i--) {
    const byte = <u32>(bits >> (borrowed + ((i - 1) << 3))) & 255
    if (byte != 0 && byte != 0xff) return false
  }
  while (at < end) {
    const byte = load<u8>(at)
    if (byte == 0) at++
    else if (byte != 0xff) return false
    else if (at + 1 >= end) return true
    else {
      const next = load<u8>(at + 1)
      if (next == 0) at += 2
      else if (next == 0xff) at++
      else return true
    }
  }
  return true
}

/**
 * @param from the scan's first byte; `to`: the end of the file
 * @param plan i32: number of MCUs, MCUs an interval (0: none), blocks an MCU; the largest mean of each of four components, in its own
 *   steps; then for each block: component, places of its tables of means and of coefficients behind `tables`
 * @param tables four of means, then four of coefficients; `stretches`: room for 32 kB
 * @returns the address behind the scan, 0 for one that is not sound
 */
export function readScan(from: usize, to: usize, plan: usize, tables: usize, stretches: usize): usize {
  const count = load<i32>(plan)
  const interval = load<i32>(plan, 4)
  const blocks = load<i32>(plan, 8)
  const largest = plan + 12
  const list = plan + 28
  for (let i: usize = 0; i < 4; i++) layStretches(tables + (4 + i) * tableBytes, stretches + i * stretchBytes)
  at = from
  end = to
  bits = 0
  have = 0
  borrowed = 0
  memory.fill(predictions, 0, 16)
  let left = interval
  let restarts = 0
  for (let mcu = 0; mcu < count; mcu++) {
    if (interval > 0 && left == 0) {
      if (!padded() || at + 2 > end || load<u8>(at + 1) != 0xd0 + (restarts & 7)) return 0
      restarts++
      at += 2
      bits = 0
      have = 0
      borrowed = 0
      memory.fill(predictions, 0, 16)
      left = interval
    }
    for (let i = 0; i < blocks; i++) {
      const own = list + <usize>(i * 12)
      const component = <usize>load<i32>(own) << 2
      const coefficients = <usize>load<i32>(own, 8)
      const ready = stretches + (coefficients / tableBytes - 4) * stretchBytes
      if (!block(tables + <usize>load<i32>(own, 4), tables + coefficients, ready, predictions + component, load<i32>(largest + component))) return 0
    }
    if (have < borrowed) return 0
    left--
  }
  return padded() ? at : 0
}
