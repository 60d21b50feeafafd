'use client'

import { App, Button, Input, Popover, Radio } from 'antd'
import Link from 'next/link'
import { type ReactNode, useEffect, useState } from 'react'
import { counted } from '@/base/format'
import { isTaken } from '@/base/free-name'
import type { ShelfMacro } from '@/contract/answers'
import { isSameSteps } from '@/macros/compare'
import { draftTag, isDraft } from '@/macros/macro'
import { keepSteps, keptSteps } from '@/macros/recorder'
import { useDescribeMacro, useKeepMacro, useMacros, useReviseMacro } from '../api/queries'
import { focusOnceThere } from '../controls/focus-once-there'
import { TextButton } from '../controls/text-button'
import styles from './keep.module.css'
import { recordingName, useBench, useBenchParts } from './store'
import { wireIsOf } from './take-back-laid'
import { nameForNew } from './use-recording'

/** Puts the kept steps on the shelf: as a new macro, or as the next revision of the one they came from. */
export function KeepMacro(): ReactNode {
  const { keeping: open, set } = useBenchParts('keeping', 'set')
  // A form that is just closing keeps what it showed last: the next one is another.
  const [opened, setOpened] = useState(0)
  const count = useBench((state) => state.history.document.steps.length)
  useEffect(() => {
    if (open) setOpened((before) => before + 1)
  }, [open])
  useEffect(() => () => set({ keeping: false }), [set])
  return (
    <Popover
      open={open}
      onOpenChange={(keeping) => set({ keeping })}
      trigger="click"
      placement="topRight"
      arrow={false}
      // Above the row before: what is there can still be hit (WCAG 2.5.8).
      align={{ offset: [0, -40] }}
      destroyOnHidden
      content={<KeepForm key={opened} onDone={() => set({ keeping: false })} />}
    >
      <Button block size="small" disabled={count === 0}>
        Keep as macro
      </Button>
    </Popover>
  )
}

function KeepForm({ onDone }: { onDone(): void }): ReactNode {
  const { message } = App.useApp()
  const { history, macroId, commit } = useBenchParts('history', 'macroId', 'commit')
  const { data: macros = [] } = useMacros()
  const origin = macros.find((macro) => macro.id === macroId)
  const draft = origin && isDraft(origin) ? origin : undefined
  // Until somebody chooses, the form follows the shelf, which may still be on its way.
  const [typed, setName] = useState<string>()
  const [chosen, setAsNew] = useState<boolean>()
  const asNew = chosen ?? !origin
  const isNamed = asNew || draft !== undefined
  const others = macros.filter((macro) => macro !== draft)
  const name = typed ?? draft?.name ?? nameForNew(recordingName(history), history.document, macros)
  const isNameTaken = isNamed && isTaken(name, others)
  const [problem, setProblem] = useState<string>()
  const keep = useKeepMacro()
  const revise = useReviseMacro()
  const describe = useDescribeMacro()
  const hollow = history.document.steps.filter((step) => !step.kept)
  const kept = keptSteps(history.document)

  /** A draft gets its name, and what was done since it was recorded. */
  const nameDraft = async (macro: ShelfMacro): Promise<ShelfMacro> => {
    const { id, notes, tags } = macro
    if (!isSameSteps(macro.steps, kept)) await revise.mutateAsync({ id, steps: kept })
    return describe.mutateAsync({ id, name: name.trim(), notes, tags: tags.filter((tag) => tag !== draftTag) })
  }
  const putOnShelf = (): Promise<ShelfMacro> => {
    if (draft) return nameDraft(draft)
    if (!asNew && origin) return revise.mutateAsync({ id: origin.id, steps: kept })
    return keep.mutateAsync({ name: name.trim(), notes: '', tags: [], steps: kept })
  }
  const save = async (): Promise<void> => {
    try {
      const macro = await putOnShelf()
      await wireIsOf(macro.id)
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
      {draft && <b>On the shelf as a draft. What is it called?</b>}
      {origin && !draft && (
        <Radio.Group
          value={asNew ? 'new' : 'revision'}
          onChange={(event) => setAsNew(event.target.value === 'new')}
          options={[
            { value: 'revision', label: `As r${origin.revision + 1} of ${origin.name}` },
            { value: 'new', label: 'As a new macro' },
          ]}
        />
      )}
      {isNamed && (
        <Input
          ref={focusOnceThere}
          value={name}
          maxLength={120}
          status={isNameTaken ? 'error' : undefined}
          onFocus={(event) => event.target.select()}
          onChange={(event) => setName(event.target.value)}
          aria-label="Name of the macro"
        />
      )}
      {isNameTaken && (
        <p className={styles.problem} role="alert">
          There is a macro called “{name.trim()}” already. Choose another name.
        </p>
      )}
      <p>
        {counted(kept.length, 'step')} will be kept.
        {hollow.length > 0 && (
          <>
            {' '}
            {counted(hollow.length, 'step')} {hollow.length === 1 ? 'was' : 'were'} made without recording.{' '}
            <TextButton onClick={() => commit(keepSteps(history.document, new Set(hollow.map((step) => step.id))))}>
              Keep {hollow.length === 1 ? 'it' : 'them'} too
            </TextButton>
          </>
        )}
      </p>
      {problem && <p className={styles.problem}>{problem}</p>}
      <Button
        type="primary"
        htmlType="submit"
        disabled={kept.length === 0 || (isNamed && (!name.trim() || isNameTaken))}
        loading={keep.isPending || revise.isPending || describe.isPending}
      >
        Keep
      </Button>
    </form>
  )
}
