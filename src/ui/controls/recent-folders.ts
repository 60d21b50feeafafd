const storedUnder = 'copper-loop-recent-folders'
const most = 6

/** Folders that were taken last, the newest first. They are this browser's, not the loop's. */
export function recentFolders(): readonly string[] {
  try {
    const stored: unknown = JSON.parse(localStorage.getItem(storedUnder) ?? '[]')
    return Array.isArray(stored) ? stored.filter((path) => typeof path === 'string').slice(0, most) : []
  } catch {
    return []
  }
}

export function noteFolder(path: string): void {
  const others = recentFolders().filter((other) => other !== path)
  // A browser that keeps nothing has no recent folders.
  try {
    localStorage.setItem(storedUnder, JSON.stringify([path, ...others].slice(0, most)))
  } catch {}
}
