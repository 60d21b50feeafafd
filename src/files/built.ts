import { join } from 'node:path'

/** Something that was built beside the processes. */
export const built = (name: string): string => join(/* turbopackIgnore: true */ process.cwd(), '.build', name)
