import { Button } from 'antd'
import { memo, type ReactNode, useState } from 'react'
import { DeliverPicture, type PictureToDeliver } from '../loops/deliver-picture'
import { useShortcuts } from '../shell/shortcuts'
import type { ProofState } from './use-proof-state'

/** From the picture in hand to a file of its own, with what it has of its own. */
export const DeliverThis = memo(function DeliverThis({ latest }: { latest: { readonly current: ProofState } }): ReactNode {
  const [picture, setPicture] = useState<PictureToDeliver>()
  const open = (): void => {
    const { path, stepsOf } = latest.current
    if (path) setPicture({ sourcePath: path, steps: stepsOf(path) })
  }
  useShortcuts({ deliverThis: open })
  return (
    <>
      <Button size="small" onClick={open} title="The picture in hand as it is here, as a file (Ctrl/⌘ Enter)">
        Deliver this picture
      </Button>
      <DeliverPicture picture={picture} onClose={() => setPicture(undefined)} />
    </>
  )
})
