import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { SignInPage } from '@/ui/sign-in/sign-in-page'

export const metadata: Metadata = { title: 'Sign in' }

export default function Page(): ReactNode {
  return <SignInPage />
}
