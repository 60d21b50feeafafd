import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { RunProofPage } from '@/ui/proof/proof-page'

export const metadata: Metadata = { title: 'Proof' }

interface Props {
  params: Promise<{ id: string }>
  searchParams: Promise<{ at?: string }>
}

export default async function Page({ params, searchParams }: Props): Promise<ReactNode> {
  return <RunProofPage runId={(await params).id} at={(await searchParams).at} />
}
