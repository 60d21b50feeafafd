'use client'

import { App, Button, Popover, Radio } from 'antd'
import { useRouter } from 'next/navigation'
import { memo, type ReactNode, useState } from 'react'
import { createPortal } from 'react-dom'
import { counted } from '@/base/format'
import { fileNameOf } from '@/base/paths'
import { routes } from '@/contract/routes'
import { isOfPictureOnly, macrosOfWire, type PictureOnBench, touchUpOfWire } from '@/jobs/picture-wire'
import type { TouchUp } from '@/jobs/touch-up'
import type { WireStep } from '@/macros/history'
import type { Step } from '@/macros/step'
import { call } from '../api/client'
import { useMacros } from '../api/queries'
import { barMiddleId } from '../shell/top-bar'
import styles from './keep.module.css'
import { useBench } from './store'
import wire from './wire.module.css'

const plain = (steps: readonly WireStep[]): Step[] => steps.map(({ kept: _, ...step }) => step)

/** Says whose steps lie on the wire, and leads back to the proof they came from. It stands in the top bar, where it moves nothing. */
export const PictureBar = memo(function PictureBar(): ReactNode {
  const picture = useBench((state) => state.picture)
  const router = useRouter()
  const isRecording = useBench((state) => state.history.document.recording !== null)
  const barMiddle = typeof window === 'undefined' ? null : window.document.getElementById(barMiddleId)
  if (!picture || isRecording || !barMiddle) return null
  return createPortal(
    <div className={wire.recordBar} data-quiet role="status" aria-label="A picture of a loop">
      ◆ this picture only: {fileNameOf(picture.sourcePath)} of {picture.loop}
      <Button size="small" onClick={() => router.push(picture.back)}>
        Back to the Proof
      </Button>
    </div>,
    barMiddle,
  )
})

/** Whether a bead is this picture's only. */
export const useIsOfPictureOnly = (step: WireStep): boolean => useBench(({ picture }) => picture !== null && isOfPictureOnly(picture, step))

type For = 'picture' | 'picked' | 'all'

/** Keeps what lies on the wire: for this picture, for the picked ones too, or for all that the loop makes. */
export function KeepForPicture({ picture }: { picture: PictureOnBench }): ReactNode {
  const [open, setOpen] = useState(false)
  return (
    <Popover
      open={open}
      onOpenChange={setOpen}
      trigger="click"
      placement="topRight"
      destroyOnHidden
      content={<KeepForm picture={picture} />}
    >
      <Button block size="small">
        Keep
      </Button>
    </Popover>
  )
}

function KeepForm({ picture }: { picture: PictureOnBench }): ReactNode {
  const { message } = App.useApp()
  const router = useRouter()
  const steps = useBench((state) => state.history.document.steps)
  const others = picture.picked.filter((path) => path !== picture.sourcePath)
  const [kept, setKept] = useState<For>('picture')
  const [problem, setProblem] = useState<string>()
  const [isKeeping, setKeeping] = useState(false)
  const { data: shelf = [] } = useMacros()
  const revised = macrosOfWire(picture, plain(steps)).macros.flatMap(({ macroId }) => shelf.filter(({ id }) => id === macroId))
  const newRevisions = revised.map(({ name, revision }) => `r${revision + 1} of ${name}`).join(', ')

  const keep = async (): Promise<void> => {
    setKeeping(true)
    try {
      if (kept === 'all') await keepForAll(picture, plain(steps))
      else await keepForPictures(picture, plain(steps), kept === 'picked' ? others : [])
      useBench.getState().set({ picture: null })
      await call(routes.layOnBench, { body: { macroId: null, picture: null } })
      void message.success('Kept.')
      router.push(picture.back)
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error))
      setKeeping(false)
    }
  }
  return (
    <form
      className={styles.form}
      onSubmit={(event) => {
        event.preventDefault()
        void keep()
      }}
    >
      <Radio.Group
        value={kept}
        onChange={(event) => setKept(event.target.value)}
        options={[
          { value: 'picture', label: 'For this picture' },
          ...(others.length > 0 ? [{ value: 'picked', label: `For this and ${counted(others.length, 'picked picture')}` }] : []),
          { value: 'all', label: newRevisions ? `For all: as ${newRevisions}` : 'For all', disabled: !newRevisions },
        ]}
      />
      {problem && <p className={styles.problem}>{problem}</p>}
      <Button type="primary" htmlType="submit" loading={isKeeping}>
        Keep
      </Button>
    </form>
  )
}

const store = (loopId: string, sourcePath: string, touchUp: TouchUp, version: number) =>
  call(routes.touchUp, { asked: { id: loopId }, body: { sourcePath, touchUp, version } })

async function keepForPictures(picture: PictureOnBench, steps: readonly Step[], others: readonly string[]): Promise<void> {
  const made = touchUpOfWire(picture, steps)
  if ('problem' in made) throw new Error(made.problem)
  const { loopId, sourcePath, version } = picture
  await store(loopId, sourcePath, made.touchUp, version)
  const known = new Map((await call(routes.touchUps, { asked: { id: loopId } })).map((entry) => [entry.sourcePath, entry]))
  for (const path of others) {
    const before = known.get(path)
    const { setAside = false, lookedAt = false } = before?.touchUp ?? {}
    await store(loopId, path, { ...made.touchUp, setAside, lookedAt }, before?.version ?? 0)
  }
}

/** New revisions of the macros; a loop that stays with an older revision takes the new one. */
async function keepForAll(picture: PictureOnBench, steps: readonly Step[]): Promise<void> {
  const { macros, touchUp } = macrosOfWire(picture, steps)
  for (const { macroId } of macros) {
    const laid = picture.macros.find((macro) => macro.macroId === macroId)
    const now = await call(routes.macro, { asked: { id: macroId } })
    // A loop that stays with an older revision was laid with that one, on purpose.
    const isPinned = (await call(routes.loop, { asked: { id: picture.loopId } })).macros.some(
      (use) => use.macroId === macroId && use.revision !== null,
    )
    if (!isPinned && now.revision !== laid?.revision)
      throw new Error(
        `${now.name} has a newer revision, r${now.revision}. Open the picture from the Proof again, so that nothing of it is undone.`,
      )
  }
  for (const { macroId, steps: next } of macros) {
    const { revision } = await call(routes.reviseMacro, { asked: { id: macroId }, body: { steps: next } })
    const loop = await call(routes.loop, { asked: { id: picture.loopId } })
    if (loop.macros.some((use) => use.macroId === macroId && use.revision !== null))
      await call(routes.saveLoop, {
        body: {
          ...loop,
          macros: loop.macros.map((use) => (use.macroId === macroId && use.revision !== null ? { ...use, revision } : use)),
        },
      })
  }
  if (JSON.stringify(touchUp) !== JSON.stringify(picture.touchUp)) await store(picture.loopId, picture.sourcePath, touchUp, picture.version)
}
