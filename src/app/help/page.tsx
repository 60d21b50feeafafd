import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { HelpPage } from '@/ui/shell/help-page'

export const metadata: Metadata = { title: 'Help' }

export default function Page(): ReactNode {
  return <HelpPage />
}
