'use client'

import './global.css'
import type { ReactNode } from 'react'
import { BrokenPage } from '@/ui/shell/broken-page'

/** Where the frame around the pages broke itself. */
export default function FrameError({ error }: { error: Error & { digest?: string } }): ReactNode {
  return (
    <html lang="en">
      <body>
        <BrokenPage error={error} />
      </body>
    </html>
  )
}
