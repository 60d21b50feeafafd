import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { LoopPage } from '@/ui/loops/loop-page'

export const metadata: Metadata = { title: 'Loop' }

export default async function Page({ params }: { params: Promise<{ id: string }> }): Promise<ReactNode> {
  return <LoopPage id={(await params).id} />
}
