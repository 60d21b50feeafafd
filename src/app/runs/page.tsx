import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { RunsPage } from '@/ui/runs/runs-page'

export const metadata: Metadata = { title: 'Runs' }

export default function Page(): ReactNode {
  return <RunsPage />
}
