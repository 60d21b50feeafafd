import { context } from '@/server/context'
import { answer } from '@/server/http'
import { readBody, rootsSchema } from '@/server/requests'
import { nameRoots } from '@/server/settings'

export const POST = (request: Request): Promise<Response> =>
  answer(async () => nameRoots(context(), (await readBody<{ roots: string[] }>(request, rootsSchema)).roots))
