import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { RunPage } from '@/ui/runs/run-page'

export const metadata: Metadata = { title: 'Run' }

export default async function Page({ params }: { params: Promise<{ id: string }> }): Promise<ReactNode> {
  return <RunPage id={(await params).id} />
}
