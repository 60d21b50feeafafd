import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { preload } from 'react-dom'
import { addressOf } from '@/contract/route'
import { routes } from '@/contract/routes'
import { RunProofPage } from '@/ui/proof/proof-page'

export const metadata: Metadata = { title: 'Proof' }

interface Props {
  params: Promise<{ id: string }>
  searchParams: Promise<{ at?: string }>
}

export default async function Page({ params, searchParams }: Props): Promise<ReactNode> {
  const { id } = await params
  // Two thousand pictures are asked for while the page's scripts are read.
  preload(addressOf(routes.proofOfRun, { id }), { as: 'fetch', crossOrigin: 'anonymous' })
  return <RunProofPage runId={id} at={(await searchParams).at} />
}
