import { exportBundle } from '@/server/bundles'
import { context } from '@/server/context'
import { answer } from '@/server/http'
import { macroById } from '@/server/macros'
import { attachment } from '@/server/responses'

interface WithId {
  params: Promise<{ id: string }>
}

export const GET = (_: Request, { params }: WithId): Promise<Response> =>
  answer(async () => {
    const { id } = await params
    return attachment(await exportBundle(context(), id), `${macroById(context(), id).name}.macro.zip`, 'application/zip')
  })
