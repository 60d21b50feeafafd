import { extname } from 'node:path'

const types: Readonly<Record<string, string>> = { '.jpg': 'image/jpeg', '.png': 'image/png', '.webp': 'image/webp', '.avif': 'image/avif' }

/** Whether browsers can show a delivered picture as it is. */
export const isShownAsItIs = (path: string): boolean => extname(path).toLowerCase() in types

/** The type under which a delivered picture is shown: its own, or PNG where browsers can't read its kind. */
export const shownType = (path: string): string => types[extname(path).toLowerCase()] ?? 'image/png'
