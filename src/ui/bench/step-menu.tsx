'use client'

import { MoreOutlined } from '@ant-design/icons'
import { App, Button, Dropdown } from 'antd'
import type { ReactNode } from 'react'
import { counted } from '@/base/format'
import { copyPicked, duplicatePicked, nestPicked, pasteCopied, pickedSteps, removePicked, takeDefaults } from './bead-actions'
import { openStrip } from './open-strip'
import { useBenchParts } from './store'
import { stripSettings } from './test-strip'

/** What can be done with the selected bead, or with all that are picked. */
export function StepMenu(): ReactNode {
  const { message } = App.useApp()
  const bench = useBenchParts('history', 'selectedId', 'picked', 'showsTimes', 'set')
  const picked = pickedSteps(bench)
  const selected = bench.history.document.steps.find((step) => step.id === bench.selectedId)
  const canStrip = selected !== undefined && stripSettings(selected).length > 0
  const these = picked.length === 1 ? 'this step' : counted(picked.length, 'step')
  const switchTimes = (): undefined => {
    bench.set({ showsTimes: !bench.showsTimes })
  }
  const actions: Record<string, () => string | undefined> = {
    times: switchTimes,
    defaults: takeDefaults,
    duplicate: duplicatePicked,
    copy: copyPicked,
    paste: pasteCopied,
    nest: nestPicked,
    strip: openStrip,
    remove: removePicked,
  }
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items: [
          { key: 'strip', label: 'Test strip', disabled: !canStrip },
          { key: 'defaults', label: 'All settings back to their defaults', disabled: !selected },
          { key: 'duplicate', label: `Duplicate ${these}` },
          { key: 'copy', label: `Copy ${these}` },
          { key: 'paste', label: 'Lay copied steps behind this one' },
          { key: 'nest', label: `Make one step of ${these}`, disabled: picked.length < 2 },
          { key: 'remove', label: `Take ${these} off` },
          { type: 'divider' },
          { key: 'times', label: bench.showsTimes ? 'Beads say how steps are set' : 'Beads say how long each step takes' },
        ],
        onClick: ({ key }) => {
          const said = actions[key]?.()
          if (said) void message.info(said)
        },
      }}
    >
      <Button type="text" size="small" icon={<MoreOutlined />} aria-label="More for this step" />
    </Dropdown>
  )
}
