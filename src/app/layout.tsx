import '@fontsource-variable/instrument-sans'
import '@fontsource-variable/jetbrains-mono'
import './global.css'
import type { Metadata } from 'next'
import { connection } from 'next/server'
import type { ReactNode } from 'react'
import { Providers } from '@/ui/shell/providers'
import { TopBar } from '@/ui/shell/top-bar'

export const metadata: Metadata = {
  title: { default: 'Copper Loop', template: '%s · Copper Loop' },
  description: 'Record edits as macros, run them over folders of pictures.',
}

export default async function RootLayout({ children }: { children: ReactNode }): Promise<ReactNode> {
  // Every page is made for its request: its scripts carry a sign of their own that no other script has.
  await connection()
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <Providers>
          <TopBar />
          <main>{children}</main>
        </Providers>
      </body>
    </html>
  )
}
