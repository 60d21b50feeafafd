import { answer } from '@/web/http'
import { shownSettings } from '@/web/shown-settings'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(shownSettings)
