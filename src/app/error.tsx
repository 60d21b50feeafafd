'use client'

import type { ReactNode } from 'react'
import { BrokenPage } from '@/ui/shell/broken-page'

/** Loaded anew rather than drawn anew: what broke it may still lie in memory. */
export default function PageError({ error }: { error: Error & { digest?: string } }): ReactNode {
  return <BrokenPage error={error} />
}
