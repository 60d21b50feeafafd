'use client'

import { App, Button, Input, Popover, Radio } from 'antd'
import Link from 'next/link'
import { type ReactNode, useState } from 'react'
import { counted } from '@/base/format'
import { routes } from '@/contract/routes'
import { keepSteps, keptSteps } from '@/macros/recorder'
import { call } from '../api/client'
import { useKeepMacro, useMacros, useReviseMacro } from '../api/queries'
import styles from './keep.module.css'
import { recordingName, useBench, useBenchParts } from './store'

/** Puts the kept steps on the shelf: as a new macro, or as the next revision of the one they came from. */
export function KeepMacro(): ReactNode {
  const [open, setOpen] = useState(false)
  // A form that is just closing keeps what it showed last: the next one is another.
  const [opened, setOpened] = useState(0)
  const count = useBench((state) => state.history.document.steps.length)
  return (
    <Popover
      open={open}
      onOpenChange={(next) => {
        if (next) setOpened(opened + 1)
        setOpen(next)
      }}
      trigger="click"
      placement="topRight"
      destroyOnHidden
      content={<KeepForm key={opened} onDone={() => setOpen(false)} />}
    >
      <Button block size="small" disabled={count === 0}>
        Keep as macro
      </Button>
    </Popover>
  )
}

function KeepForm({ onDone }: { onDone(): void }): ReactNode {
  const { message } = App.useApp()
  const { history, macroId, commit, set } = useBenchParts('history', 'macroId', 'commit', 'set')
  const { data: macros = [] } = useMacros()
  const origin = macros.find((macro) => macro.id === macroId)
  // Until somebody chooses, the form follows the shelf, which may still be on its way.
  const [typed, setName] = useState<string>()
  const [chosen, setAsNew] = useState<boolean>()
  const name = typed ?? recordingName(history) ?? origin?.name ?? 'My macro'
  const asNew = chosen ?? !origin
  const [problem, setProblem] = useState<string>()
  const keep = useKeepMacro()
  const revise = useReviseMacro()
  const hollow = history.document.steps.filter((step) => !step.kept)
  const kept = keptSteps(history.document)

  const save = async (): Promise<void> => {
    try {
      const macro =
        !asNew && origin
          ? await revise.mutateAsync({ id: origin.id, steps: kept })
          : await keep.mutateAsync({ name: name.trim(), notes: '', tags: [], steps: kept })
      set({ macroId: macro.id })
      await call(routes.layOnBench, { body: { macroId: macro.id } })
      void message.success(
        <>
          Kept as{' '}
          <Link href="/macros">
            {macro.name} r{macro.revision}
          </Link>
        </>,
        5,
      )
      onDone()
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error))
    }
  }
  return (
    <form
      className={styles.form}
      onSubmit={(event) => {
        event.preventDefault()
        void save()
      }}
    >
      {origin && (
        <Radio.Group
          value={asNew ? 'new' : 'revision'}
          onChange={(event) => setAsNew(event.target.value === 'new')}
          options={[
            { value: 'revision', label: `As r${origin.revision + 1} of ${origin.name}` },
            { value: 'new', label: 'As a new macro' },
          ]}
        />
      )}
      {asNew && (
        <Input autoFocus value={name} maxLength={120} onChange={(event) => setName(event.target.value)} aria-label="Name of the macro" />
      )}
      <p>
        {counted(kept.length, 'step')} will be kept.
        {hollow.length > 0 && (
          <>
            {' '}
            {counted(hollow.length, 'step')} {hollow.length === 1 ? 'was' : 'were'} made without recording.{' '}
            <button
              type="button"
              className={styles.link}
              onClick={() => commit(keepSteps(history.document, new Set(hollow.map((step) => step.id))))}
            >
              Keep {hollow.length === 1 ? 'it' : 'them'} too
            </button>
          </>
        )}
      </p>
      {problem && <p className={styles.problem}>{problem}</p>}
      <Button
        type="primary"
        htmlType="submit"
        disabled={kept.length === 0 || (asNew && !name.trim())}
        loading={keep.isPending || revise.isPending}
      >
        Keep
      </Button>
    </form>
  )
}
