import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { MacroPage } from '@/ui/macros/macro-page'

export const metadata: Metadata = { title: 'Macro' }

export default async function Page({ params }: { params: Promise<{ id: string }> }): Promise<ReactNode> {
  return <MacroPage id={(await params).id} />
}
