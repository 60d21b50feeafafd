/* Paths as the server tells them to pages: with `/`, whatever the system. */

/** The name behind the last `/`. */
export const fileNameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1)

/** What stands before the last `/`; nothing where there is none. */
export const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')))
