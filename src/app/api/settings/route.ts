import { answer } from '@/server/http'
import { shownSettings } from '@/server/shown-settings'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(shownSettings)
