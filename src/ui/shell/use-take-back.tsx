'use client'

import { App, Button } from 'antd'
import type { ReactNode } from 'react'

/** Long enough to read it, look, and reach it. */
const shownForSeconds = 20

/** Says what was done, with a button that takes it back. */
export function useTakeBack(): (said: string, back: () => Promise<unknown>) => void {
  const { message } = App.useApp()
  return (said, back) => {
    const key = crypto.randomUUID()
    const takeBack = (): void => {
      message.destroy(key)
      back().catch((problem: Error) => void message.error(problem.message, 8))
    }
    const content: ReactNode = (
      <>
        {said}{' '}
        <Button type="link" size="small" onClick={takeBack}>
          Take it back
        </Button>
      </>
    )
    void message.open({ key, type: 'info', duration: shownForSeconds, content })
  }
}
