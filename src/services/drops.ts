import { join, relative, sep } from 'node:path'
import { AppError } from '@/base/errors'
import { type Context, inboxFolder } from './context'

const uuid = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/

/** Where a drop's pictures lie. @throws AppError `badRequest` */
export const dropFolder = ({ dataFolder }: Pick<Context, 'dataFolder'>, loopId: string, drop: string): string => {
  if (!uuid.test(drop)) throw new AppError('badRequest', { reason: 'it names no drop' })
  return join(inboxFolder(dataFolder), encodeURIComponent(loopId).replaceAll('.', '%2E'), drop)
}

/** The folder of its drop, for a picture that lies in an inbox: its path within the drop is told from there. */
export function dropOf({ dataFolder }: Pick<Context, 'dataFolder'>, path: string): string | undefined {
  const root = inboxFolder(dataFolder)
  const [loop, drop, ...rest] = relative(root, path).split(sep)
  return loop && loop !== '..' && drop && rest.length > 0 ? join(root, loop, drop) : undefined
}
