'use client'

import type { ReactNode } from 'react'
import { BrokenPage } from '@/ui/shell/broken-page'

export default function PageError({ error, reset }: { error: Error & { digest?: string }; reset(): void }): ReactNode {
  return <BrokenPage error={error} onRetry={reset} />
}
