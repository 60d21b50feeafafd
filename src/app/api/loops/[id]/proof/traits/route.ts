import { errorSentence, reportOf } from '@/base/errors'
import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'

export const POST = serve(routes.proofTraits, ({ asked: { id: loopId }, body: { paths } }) =>
  Promise.all(
    paths.map(async (path) => {
      try {
        const { traits } = await helpers().ask('proofSmall', { loopId, path })
        return { sourcePath: path, traits, problem: null }
      } catch (error) {
        return { sourcePath: path, traits: null, problem: errorSentence(reportOf(error)) }
      }
    }),
  ),
)
