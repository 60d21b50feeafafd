/** The value under a key, made if missing; beyond `most`, the one unused for longest is dropped. */
export function lruCached<K, T>(cache: Map<K, T>, key: K, max: number, make: () => T): T {
  const value = cache.get(key) ?? make()
  cache.delete(key)
  cache.set(key, value)
  const oldest = cache.keys().next().value
  if (cache.size > max && oldest !== undefined) cache.delete(oldest)
  return value
}

/** A function of an object that is worked out once for each object, and forgotten with it. */
export function memoised<K extends object, T>(work: (key: K) => T): (key: K) => T {
  const known = new WeakMap<K, T>()
  return (key) => {
    const value = known.get(key) ?? work(key)
    known.set(key, value)
    return value
  }
}
