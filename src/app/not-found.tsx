import Link from 'next/link'
import type { ReactNode } from 'react'
import page from '@/ui/shell/page.module.css'

export default function NotFound(): ReactNode {
  return (
    <div className={page.page}>
      <div className={page.empty}>
        <h1>Nothing is here</h1>
        <p>
          There is no page of this address. Go to the <Link href="/bench">bench</Link>, the <Link href="/macros">macros</Link>, the{' '}
          <Link href="/loops">loops</Link> or the <Link href="/runs">runs</Link>.
        </p>
      </div>
    </div>
  )
}
