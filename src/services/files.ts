import { access } from 'node:fs/promises'

export const fileExists = (path: string): Promise<boolean> =>
  access(path).then(
    () => true,
    () => false,
  )
