import { context } from '@/server/context'
import { helpers } from '@/server/helper/pool'
import { answer } from '@/server/http'
import { readBody, rootsSchema } from '@/server/requests'
import { nameRoots } from '@/server/settings'
import { shownSettings } from '@/server/shown-settings'

export const POST = (request: Request): Promise<Response> =>
  answer(async () => {
    const { roots: paths } = await readBody<{ roots: string[] }>(request, rootsSchema)
    nameRoots(context(), await helpers().ask('checkRoots', { paths }))
    return shownSettings()
  })
