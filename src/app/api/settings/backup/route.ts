import { context } from '@/server/context'
import { answer } from '@/server/http'
import { makeBackup } from '@/server/settings'

export const POST = (): Promise<Response> => answer(() => makeBackup(context()))
