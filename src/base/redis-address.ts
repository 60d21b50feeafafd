/** Why an address of Redis can't be used, in words. */
export function problemOfRedis(url: string): string | undefined {
  const protocol = URL.canParse(url) ? new URL(url).protocol : ''
  return protocol === 'redis:' || protocol === 'rediss:'
    ? undefined
    : 'The address of Redis must look like redis://host:6379 or rediss://host:6379.'
}

/** An address of Redis for people: without name and password. */
export function shownRedis(url: string): string {
  if (problemOfRedis(url) !== undefined) return 'an address that can’t be used'
  const { protocol, host, pathname } = new URL(url)
  return `${protocol}//${host}${pathname}`
}
