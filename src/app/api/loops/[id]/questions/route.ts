import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { loopById } from '@/services/loops'
import { questionsOfLoop } from '@/services/preflight/questions'
import { serve } from '@/web/http'

export const dynamic = 'force-dynamic'

export const GET = serve(routes.loopQuestions, ({ asked: { id } }) => questionsOfLoop(context(), loopById(context(), id)))
