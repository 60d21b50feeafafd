import { context } from '@/server/context'
import { answer } from '@/server/http'
import { settingsView } from '@/server/settings'

export const dynamic = 'force-dynamic'

export const GET = (): Promise<Response> => answer(() => settingsView(context()))
