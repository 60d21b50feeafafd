import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { BenchPage } from '@/ui/bench/bench-page'

export const metadata: Metadata = { title: 'Bench' }

export default function Page(): ReactNode {
  return <BenchPage />
}
