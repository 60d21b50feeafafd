import { errorSentence, reportOf } from '@/base/errors'
import type { ProofTraits } from '@/contract/answers'
import { routes } from '@/contract/routes'
import { helpers } from '@/services/helper/pool'
import { serve } from '@/web/http'

/** One after the other: the picture that somebody looks at must not wait for those that nobody does. */
export const POST = serve(routes.proofTraits, async ({ asked: { id: loopId }, body: { paths } }) => {
  const answers: ProofTraits[] = []
  for (const path of paths)
    try {
      const { traits } = await helpers().ask('proofSmall', { loopId, path })
      answers.push({ sourcePath: path, traits, problem: null })
    } catch (error) {
      answers.push({ sourcePath: path, traits: null, problem: errorSentence(reportOf(error)) })
    }
  return answers
})
