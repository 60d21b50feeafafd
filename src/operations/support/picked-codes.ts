import type { Vector3 } from '@/colour/matrix'

const wholeCode = (code: number): number => Math.min(255, Math.max(1, Math.round(code)))

/** Picked 8-bit codes as settings take them: whole, and never 0, which no gain can lift. */
export const wholeCodes = ([r, g, b]: Vector3): Vector3 => [wholeCode(r), wholeCode(g), wholeCode(b)]
