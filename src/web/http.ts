import * as yup from 'yup'
import { AppError, errorStatus, reportOf } from '@/base/errors'
import type { Asked, Route } from '@/contract/route'
import { log } from '@/processes/log'
import { readBody } from './read-body'

/** Runs a route's work and answers with JSON, or with the error's own status, code and sentence. */
export async function answer(work: () => unknown): Promise<Response> {
  try {
    const value = await work()
    return value instanceof Response ? value : Response.json(value ?? null)
  } catch (error) {
    const report = reportOf(error)
    if (report.code === 'internal') log.error(error)
    return Response.json({ ...report, sentence: new AppError(report.code, report.details).message }, { status: errorStatus(report.code) })
  }
}

/** What a request brings to a route's work: variable parts of its address and its query together, its body, and itself. */
export interface Brought<Path extends string, Body, Query> {
  readonly asked: Asked<Path, Query>
  readonly body: Body
  readonly request: Request
}

/** Work for a route answers as the contract says. */
type Work<Path extends string, Answer, Body, Query> = (
  brought: Brought<Path, Body, Query>,
) => Answer | Response | Promise<Answer | Response>

/**
 * Serves a route of the contract: checks what is asked and brought before the work sees it.
 * @throws AppError `badRequest` in the answer, for what the contract does not let through
 */
export const serve =
  <Path extends string, Answer, Body, Query>(route: Route<Path, Answer, Body, Query>, work: Work<Path, Answer, Body, Query>) =>
  (request: Request, { params }: { readonly params: Promise<Readonly<Record<string, string>>> }): Promise<Response> =>
    answer(async () => {
      const asked = { ...(await params), ...(route.query && (await readQuery(request, route.query))) }
      const body = route.body && (await readBody(request, route.body))
      // Both have just been checked against the route's own schemas.
      return work({ asked, body, request } as Brought<Path, Body, Query>)
    })

/** What stands behind `?`, read as the schema says. @throws AppError `badRequest` */
async function readQuery<Query>(request: Request, schema: yup.ISchema<Query>): Promise<Query> {
  try {
    return await schema.validate(Object.fromEntries(new URL(request.url).searchParams))
  } catch (error) {
    throw error instanceof yup.ValidationError ? new AppError('badRequest', { reason: `in its address, ${error.message}` }) : error
  }
}
