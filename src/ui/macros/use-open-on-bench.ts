'use client'

import { App } from 'antd'
import { useRouter } from 'next/navigation'
import { counted } from '@/base/format'
import type { Step } from '@/macros/step'
import { takeBackLaid } from '../bench/take-back-laid'
import { useTakeBack } from '../shell/use-take-back'
import { layOnBench } from './lay-on-bench'

/** Lays steps on the bench and goes there. Where they cover steps that are on no shelf, that is said, and can be taken back. */
export function useOpenOnBench(): (steps: readonly Step[], macroId: string | null) => Promise<void> {
  const router = useRouter()
  const { message } = App.useApp()
  const offerBack = useTakeBack()
  return async (steps, macroId) => {
    try {
      const { unkept, edits, origin } = await layOnBench(steps, macroId)
      router.push('/bench')
      if (unkept > 0)
        offerBack(`${counted(unkept, 'step')} that ${unkept === 1 ? 'was' : 'were'} not kept lay on the wire.`, () =>
          takeBackLaid(edits, origin),
        )
    } catch (problem) {
      void message.error(problem instanceof Error ? problem.message : String(problem))
    }
  }
}
