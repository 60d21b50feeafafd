import { context } from '@/services/context'
import { exportMacro, macroById } from '@/services/macros'
import { answer } from '@/web/http'
import { attachment } from '@/web/responses'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const { id } = await params
    return attachment(exportMacro(context(), id), `${macroById(context(), id).name}.macro.json`, 'application/json')
  })
