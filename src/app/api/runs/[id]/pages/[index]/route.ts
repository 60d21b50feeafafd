import { basename, extname } from 'node:path'
import { routes } from '@/contract/routes'
import { context } from '@/services/context'
import { sentPages } from '@/services/pages/make-pages'
import { serve } from '@/web/http'

const types: Readonly<Record<string, string>> = {
  '.pdf': 'application/pdf',
  '.jpg': 'image/jpeg',
  '.png': 'image/png',
  '.tif': 'image/tiff',
}

export const GET = serve(routes.gatheredFile, async ({ asked: { id, index } }) => {
  const { path, sizeBytes, stream } = await sentPages(context(), id, Number(index))
  return new Response(stream, {
    headers: {
      'Content-Type': types[extname(path)] ?? 'application/octet-stream',
      'Content-Length': String(sizeBytes),
      'Content-Disposition': `inline; filename*=UTF-8''${encodeURIComponent(basename(path))}`,
      'Cache-Control': 'no-store',
    },
  })
})
