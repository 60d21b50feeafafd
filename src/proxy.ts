import { type NextRequest, NextResponse } from 'next/server'
import { AppError, errorStatus } from '@/core/errors'

const ownNames = new Set(['127.0.0.1', 'localhost', '[::1]'])
const nameOf = (host: string): string => host.replace(/:\d+$/, '')

/**
 * Only this machine: the Host header must name it (against DNS rebinding), and a request that changes something must
 * come from our own pages (against cross-site posts).
 */
export function proxy(request: NextRequest): NextResponse {
  const host = request.headers.get('host') ?? ''
  const origin = request.headers.get('origin')
  const changes = request.method !== 'GET' && request.method !== 'HEAD'
  const foreign = origin !== null && origin !== `http://${host}`
  const crossSite = request.headers.get('sec-fetch-site') === 'cross-site'
  if (ownNames.has(nameOf(host)) && !(changes && (foreign || crossSite))) return NextResponse.next()
  const error = new AppError('crossSite')
  return NextResponse.json({ ...error.report, sentence: error.message }, { status: errorStatus('crossSite') })
}
