import { AppError, errorStatus, reportOf } from '@/base/errors'
import { log } from '@/services/log'

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

/** A query parameter that must be there. @throws AppError `badRequest` */
export function required(request: Request, name: string): string {
  const value = new URL(request.url).searchParams.get(name)
  if (!value) throw new AppError('badRequest', { reason: `the parameter ${name} is missing` })
  return value
}

export const optional = (request: Request, name: string): string | undefined => new URL(request.url).searchParams.get(name) ?? undefined

/** A whole number in a range, if the parameter is there. @throws AppError `badRequest` */
export function optionalWhole(request: Request, name: string, least: number, most: number): number | undefined {
  const text = optional(request, name)
  if (text === undefined) return undefined
  const value = Number(text)
  if (!Number.isInteger(value) || value < least || value > most)
    throw new AppError('badRequest', { reason: `the parameter ${name} must be a whole number from ${least} to ${most}` })
  return value
}
