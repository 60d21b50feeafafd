import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { LoopsPage } from '@/ui/loops/loops-page'

export const metadata: Metadata = { title: 'Loops' }

export default function Page(): ReactNode {
  return <LoopsPage />
}
