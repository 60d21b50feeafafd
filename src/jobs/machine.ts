/** More than this many cores no machine of this kind has; each takes up to a gigabyte and a half. */
export const maxWorkers = 64

/** Megabytes (10⁶) of small pictures that may be kept. */
export const maxCacheMb = 100_000
