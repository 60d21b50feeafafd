import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { MacrosPage } from '@/ui/macros/macros-page'

export const metadata: Metadata = { title: 'Macros' }

export default function Page(): ReactNode {
  return <MacrosPage />
}
