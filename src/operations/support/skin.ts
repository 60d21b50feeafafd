/** Hue of skin in OKLab, degrees, and how far from it a guard reaches (common practice: skin of every tone lies near 55°). */
const hueDegrees = 55
const reachDegrees = 35
const radians = Math.PI / 180
const edge = Math.cos(reachDegrees * radians)

/** What kernels with a skin guard read: direction u, v; cosine at the reach; 1/(1 − cosine). */
export const skinHue: readonly number[] = [Math.cos(hueDegrees * radians), Math.sin(hueDegrees * radians), edge, 1 / (1 - edge)]
