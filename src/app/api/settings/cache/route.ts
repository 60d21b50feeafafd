import { context } from '@/server/context'
import { answer } from '@/server/http'
import { clearCache } from '@/server/settings'

export const POST = (): Promise<Response> => answer(() => clearCache(context()))
