import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { RunProofPage } from '@/ui/proof/proof-page'

export const metadata: Metadata = { title: 'Proof' }

export default async function Page({ params }: { params: Promise<{ id: string }> }): Promise<ReactNode> {
  return <RunProofPage runId={(await params).id} />
}
