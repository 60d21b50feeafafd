import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { SettingsPage } from '@/ui/settings/settings-page'

export const metadata: Metadata = { title: 'Settings' }

export default function Page(): ReactNode {
  return <SettingsPage />
}
