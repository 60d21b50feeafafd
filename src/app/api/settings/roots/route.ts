import { context } from '@/services/context'
import { helpers } from '@/services/helper/pool'
import { nameRoots } from '@/services/settings'
import { answer } from '@/web/http'
import { readBody, rootsSchema } from '@/web/requests'
import { shownSettings } from '@/web/shown-settings'

export const POST = (request: Request): Promise<Response> =>
  answer(async () => {
    const { roots: paths } = await readBody<{ roots: string[] }>(request, rootsSchema)
    nameRoots(context(), await helpers().ask('checkRoots', { paths }))
    return shownSettings()
  })
