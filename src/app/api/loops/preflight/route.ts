import { context } from '@/server/context'
import { answer } from '@/server/http'
import { preflight } from '@/server/preflight'
import { readLoop } from '@/server/requests'

/** Checks a loop as it stands on the page, saved or not. */
export const POST = (request: Request): Promise<Response> => answer(async () => preflight(context(), await readLoop(request)))
