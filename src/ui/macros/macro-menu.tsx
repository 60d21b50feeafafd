'use client'

import { MoreOutlined } from '@ant-design/icons'
import { App, Button, Dropdown } from 'antd'
import { useRouter } from 'next/navigation'
import { type ReactNode, useEffect, useRef } from 'react'
import type { ShelfMacro } from '@/contract/answers'
import { routes } from '@/contract/routes'
import { keptFilesOf } from '@/macros/kept-files'
import { readSteps } from '@/macros/step'
import { urlOf } from '../api/client'
import { useBinMacro, useDuplicateMacro } from '../api/queries'
import type { FromSamplesWorker, ToSamplesWorker } from '../bench/worker/samples-worker'

/** What can be done with a macro besides opening it. */
export function MacroMenu({ macro, onGone }: { macro: ShelfMacro; onGone?(): void }): ReactNode {
  const { message, modal } = App.useApp()
  const router = useRouter()
  const bin = useBinMacro()
  const duplicate = useDuplicateMacro()
  const makeLook = useLookMaker()
  const fail = (problem: unknown): void => void message.error(problem instanceof Error ? problem.message : String(problem), 6)
  const actions: Record<string, () => void> = {
    duplicate: () => duplicate.mutateAsync(macro.id).then((copy) => router.push(`/macros/${copy.id}`), fail),
    read: () =>
      navigator.clipboard.writeText(readSteps(macro.steps)).then(() => void message.success('Copied as numbered sentences'), fail),
    file: () => window.location.assign(urlOf(routes.macroFile, { id: macro.id })),
    bundle: () => window.location.assign(urlOf(routes.macroBundle, { id: macro.id })),
    look: () =>
      void makeLook(macro).then((problem) => {
        if (problem) void message.warning(problem, 8)
      }, fail),
    bin: () =>
      void modal.confirm({
        title: `Put ${macro.name} in the bin?`,
        content:
          macro.usedBy.length > 0
            ? `${macro.usedBy.join(', ')} can’t run without it. It stays in the bin for thirty days.`
            : 'It stays there for thirty days and can be taken back.',
        okText: 'Put in the bin',
        onOk: () => bin.mutateAsync(macro.id).then(onGone, fail),
      }),
  }
  const hasFiles = keptFilesOf(macro.steps).length > 0
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items: [
          { key: 'duplicate', label: 'Duplicate' },
          { key: 'read', label: 'Copy as sentences' },
          { type: 'divider' },
          { key: 'file', label: 'Save as a macro file' },
          { key: 'bundle', label: hasFiles ? 'Save as a bundle with its files' : 'Save as a bundle' },
          { key: 'look', label: 'Save as a .cube look' },
          { type: 'divider' },
          { key: 'bin', label: 'Put in the bin', danger: true },
        ],
        onClick: ({ key }) => actions[key]?.(),
      }}
    >
      <Button icon={<MoreOutlined />} aria-label={`More for ${macro.name}`} />
    </Dropdown>
  )
}

/** Makes a macro's look in a worker and saves it; says why where it can't be one. */
function useLookMaker(): (macro: ShelfMacro) => Promise<string | null> {
  const worker = useRef<Worker>(null)
  useEffect(() => () => worker.current?.terminate(), [])
  return ({ name, steps }) => {
    worker.current ??= new Worker(new URL('../bench/worker/samples-worker.ts', import.meta.url), { type: 'module' })
    const made = worker.current
    return new Promise((resolve, reject) => {
      made.onmessage = ({ data }: MessageEvent<FromSamplesWorker>) => {
        if (data.type !== 'look') return
        if (data.text !== null) saveText(data.text, `${name}.cube`)
        resolve(data.sentence)
      }
      made.onerror = () => reject(new Error('The look could not be made.'))
      made.postMessage({ type: 'look', name, steps } satisfies ToSamplesWorker)
    })
  }
}

function saveText(text: string, fileName: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([text], { type: 'text/plain' }))
  link.download = fileName
  link.click()
  URL.revokeObjectURL(link.href)
}
