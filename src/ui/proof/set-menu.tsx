import { MoreOutlined } from '@ant-design/icons'
import { App, Button, Dropdown } from 'antd'
import { memo, type ReactNode, useRef, useState } from 'react'
import { counted } from '@/base/format'
import { routes } from '@/contract/routes'
import { untouched } from '@/jobs/touch-up'
import { urlOf } from '../api/client'
import { useImportTouchUps } from '../api/queries'
import { MakePages } from '../loops/make-pages'
import { TakeIntoLoop } from '../loops/take-into-loop'
import type { ProofState } from './use-proof-state'

interface Props {
  latest: { readonly current: ProofState }
  loopId: string
  hasTouched: boolean
  picked: ReadonlySet<string>
  /** How many pictures are shown. */
  count: number
  hasDelivered: boolean
  /** Where pages may go. */
  folder: string
}

/** What is done with the touch-ups of the whole set. */
export const SetMenu = memo(function SetMenu({ latest, loopId, hasTouched, picked, count, hasDelivered, folder }: Props): ReactNode {
  const { message, modal } = App.useApp()
  const chooser = useRef<HTMLInputElement>(null)
  const take = useImportTouchUps(loopId)
  const [taken, setTaken] = useState<readonly string[]>()
  const [gathered, setGathered] = useState<readonly number[]>()
  /** The delivered files of the same. */
  const delivered = (): number[] => {
    const some = new Set(wanted())
    return latest.current.pictures.flatMap(({ sourcePath, delivered: file }) => (file && some.has(sourcePath) ? [file.resultId] : []))
  }
  /** Those that are picked, else all that are shown, in their order. */
  const wanted = (): string[] =>
    latest.current.pictures.map(({ sourcePath }) => sourcePath).filter((path) => picked.size === 0 || picked.has(path))

  const takeFile = async (file: File): Promise<void> => {
    // What was changed before comes before: on its way still, it would take back what the file says.
    await latest.current.touchUps.stored()
    take.mutate(file, {
      onSuccess: ({ taken, unknown, changed }) =>
        void message.info(
          [
            `${counted(taken, 'touch-up')} taken.`,
            unknown.length > 0 &&
              `${counted(unknown.length, 'picture')} of the file ${unknown.length === 1 ? 'is' : 'are'} not in this loop.`,
            changed.length > 0 && `${counted(changed.length, 'picture')} had another content: found by name.`,
          ]
            .filter(Boolean)
            .join(' '),
          8,
        ),
      onError: (problem) => void message.error(problem.message, 8),
    })
  }
  const takeAllBack = (): void => {
    const { proof, touchUps, wordsOf } = latest.current
    const touched = proof.pictures.filter(({ sourcePath }) => wordsOf(sourcePath).length > 0)
    modal.confirm({
      title: `Take back what ${counted(touched.length, 'picture')} ${touched.length === 1 ? 'has' : 'have'} of ${touched.length === 1 ? 'its' : 'their'} own?`,
      content: 'Each can be had back with Undo at its picture.',
      okText: 'Take all back',
      onOk: () => {
        for (const { sourcePath } of touched) touchUps.change(sourcePath, { ...untouched, lookedAt: touchUps.of(sourcePath).lookedAt })
      },
    })
  }
  return (
    <>
      <input
        ref={chooser}
        type="file"
        accept=".json,application/json"
        hidden
        aria-label="File of touch-ups"
        onChange={({ target }) => {
          const file = target.files?.[0]
          target.value = ''
          if (file) void takeFile(file)
        }}
      />
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            {
              key: 'save',
              label: <a href={urlOf(routes.touchUpFile, { id: loopId })}>Save all touch-ups to a file</a>,
            },
            {
              key: 'loop',
              label:
                picked.size > 0
                  ? `Take the ${picked.size.toLocaleString('en-GB')} picked into a loop`
                  : `Take all ${count.toLocaleString('en-GB')} into a loop`,
              onClick: () => setTaken(wanted()),
            },
            { key: 'pages', label: 'Gather what is delivered on pages', disabled: !hasDelivered, onClick: () => setGathered(delivered()) },
            { key: 'take', label: 'Take touch-ups from a file', onClick: () => chooser.current?.click() },
            { key: 'back', label: 'Take all touch-ups back', disabled: !hasTouched, onClick: takeAllBack },
          ],
        }}
      >
        <Button size="small" icon={<MoreOutlined />} aria-label="More for the whole set" loading={take.isPending} />
      </Dropdown>
      <MakePages resultIds={gathered} suggestedFolder={folder} onClose={() => setGathered(undefined)} />
      <TakeIntoLoop paths={taken} onClose={() => setTaken(undefined)} />
    </>
  )
})
