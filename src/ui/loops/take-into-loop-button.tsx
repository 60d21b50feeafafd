'use client'

import { Button, type ButtonProps } from 'antd'
import { type ReactNode, useState } from 'react'
import { TakeIntoLoop } from './take-into-loop'

interface Props extends Omit<ButtonProps, 'onClick'> {
  /** The pictures as they are when it is pressed. */
  paths: readonly string[]
}

/** A button that gives pictures to a loop. */
export function TakeIntoLoopButton({ paths, children = 'Take these into a loop', ...button }: Props): ReactNode {
  const [taken, setTaken] = useState<readonly string[]>()
  return (
    <>
      <Button disabled={paths.length === 0} {...button} onClick={() => setTaken(paths)}>
        {children}
      </Button>
      <TakeIntoLoop paths={taken} onClose={() => setTaken(undefined)} />
    </>
  )
}
