import { DeleteOutlined, PlusOutlined } from '@ant-design/icons'
import { Button, Segmented, Select, Switch } from 'antd'
import { type ReactNode, useEffect, useState } from 'react'
import { counted, formatBytes, formatSize } from '@/base/format'
import { fileNameOf } from '@/base/paths'
import type { IntakeProgress, PreflightView, Problem } from '@/contract/answers'
import { foldersOf, type IntakeOrder, type Loop, type LoopIntake, type WhenDamaged } from '@/jobs/loop'
import { formatName } from '@/macros/condition'
import { Conditions } from '../bench/conditions'
import { FolderField } from '../controls/folder-field'
import { SwitchLine } from './fields'
import styles from './loops.module.css'
import { PickPictures } from './pick-pictures'
import { Problems } from './problems'

const orderOptions: { value: IntakeOrder; label: string }[] = [
  { value: 'folder', label: 'folder by folder' },
  { value: 'name', label: 'by name' },
  { value: 'taken', label: 'by the time they were taken' },
]

const damagedOptions: { value: WhenDamaged; label: string }[] = [
  { value: 'fail', label: 'Damaged pictures are left out, and told' },
  { value: 'deliver', label: 'Damaged pictures go out as far as they can be read, and are marked' },
]

interface Props {
  loop: Loop
  check: PreflightView | undefined
  /** While the look goes on. */
  progress: IntakeProgress | undefined
  problems: readonly Problem[]
  onChange(part: Partial<Loop>): void
}

/** As many names as are looked through. */
const maxNames = 500

/** Names to pick from: of all that were found in the folder, also before a condition left some of them out. */
function useNamesSeen(folder: string, check: PreflightView | undefined): readonly string[] {
  const [seen, setSeen] = useState<{ readonly folder: string; readonly names: readonly string[] }>({ folder, names: [] })
  useEffect(() => {
    const found = (check?.pictures ?? []).map(({ relativePath }) => fileNameOf(relativePath))
    setSeen((before) => ({ folder, names: [...new Set([...(before.folder === folder ? before.names : []), ...found])].slice(0, maxNames) }))
  }, [folder, check])
  return seen.names
}

/** Which pictures a loop takes. */
export function Take({ loop, check, progress, problems, onChange }: Props): ReactNode {
  const { intake } = loop
  const change = (part: Partial<LoopIntake>): void => onChange({ intake: { ...intake, ...part } })
  const names = useNamesSeen(intake.folder, check)
  const [isPicking, setPicking] = useState(false)
  return (
    <section className={styles.part}>
      <h2>Take</h2>
      <Segmented<boolean>
        size="small"
        aria-label="Which of the pictures"
        value={intake.picked !== null}
        options={[
          { value: false, label: 'All that lies there' },
          { value: true, label: 'Only these …' },
        ]}
        onChange={(isPicked) => {
          change({ picked: isPicked ? [] : null })
          if (isPicked && intake.folder) setPicking(true)
        }}
      />
      <FolderField label="Intake folder" value={intake.folder} onChange={(folder) => change({ folder })} />
      {!intake.picked && (
        <SwitchLine name="Asked before each run" checked={intake.asked} onChange={(asked) => change({ asked })}>
          asked before each run
        </SwitchLine>
      )}
      {intake.more.map((folder, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: folders have no identity beyond their place
        <div key={index} className={styles.furtherFolder}>
          <FolderField
            label={`Intake folder ${index + 2}`}
            value={folder}
            onChange={(next) => change({ more: intake.more.map((other, i) => (i === index ? next : other)) })}
          />
          <Button
            type="text"
            icon={<DeleteOutlined />}
            aria-label={`Remove intake folder ${index + 2}`}
            onClick={() => change({ more: intake.more.toSpliced(index, 1) })}
          />
        </div>
      ))}
      {intake.picked && (
        <div className={styles.inline}>
          <Button onClick={() => setPicking(true)} disabled={foldersOf({ ...intake, picked: null }).length === 0}>
            Pick pictures
          </Button>
          <span>{counted(intake.picked.length, 'picture')} picked</span>
        </div>
      )}
      <PickPictures
        intake={isPicking ? intake : undefined}
        onClose={() => setPicking(false)}
        onPick={(picked) => {
          setPicking(false)
          change({ picked })
        }}
      />
      <div className={styles.inline}>
        <Switch aria-label="With subfolders" size="small" checked={intake.subfolders} onChange={(subfolders) => change({ subfolders })} />
        with subfolders
        <Button size="small" icon={<PlusOutlined />} onClick={() => change({ more: [...intake.more, ''] })}>
          Another folder
        </Button>
        <Select
          size="small"
          className={styles.grow}
          aria-label="In which order"
          options={orderOptions}
          value={intake.order}
          onChange={(order) => change({ order })}
        />
      </div>
      {intake.subfolders && (
        <Select
          mode="tags"
          size="small"
          className={styles.wide}
          aria-label="Subfolders to pass over"
          placeholder="Passes over no subfolder. Pass over, by name, * for anything …"
          value={[...intake.without]}
          open={false}
          suffixIcon={null}
          onChange={(without: string[]) => change({ without: without.map((name) => name.trim()).filter(Boolean) })}
        />
      )}
      <Conditions
        label="Only some pictures"
        none="Takes all pictures. Only those with …"
        value={intake.only}
        names={names}
        onChange={(only) => change({ only })}
      />
      <Select
        size="small"
        className={styles.wide}
        aria-label="Damaged pictures"
        options={damagedOptions}
        value={intake.damaged}
        onChange={(damaged) => change({ damaged })}
      />
      <Count check={check} progress={progress} />
      <Problems list={problems} onMend={onChange} />
    </section>
  )
}

/** The live count: as it grows while the look goes on, and what was found at last. */
function Count({ check, progress }: Pick<Props, 'check' | 'progress'>): ReactNode {
  if (progress) return <p className={styles.count}>{describeProgress(progress)}</p>
  if (!check || check.totals.pictures === 0) return null
  const { pictures, folders, bytes, unreadable, kinds, sizes } = check.totals
  const perKind = Object.entries(kinds).toSorted(([, a], [, b]) => b - a)
  const [min, max] = sizes?.map(formatSize) ?? []
  return (
    <p className={styles.count}>
      {counted(pictures, 'picture')} in {counted(folders, 'folder')}, {formatBytes(bytes)}
      {unreadable > 0 && `, ${unreadable.toLocaleString('en-GB')} can’t be read`}
      <br />
      <span className={styles.quiet}>
        {perKind.map(([kind, count]) => `${count.toLocaleString('en-GB')} ${formatName(kind)}`).join(', ')}
        {min && ` · ${min === max ? min : `${min} to ${max}`}`}
      </span>
    </p>
  )
}

function describeProgress(progress: IntakeProgress): string {
  if (progress.stage === 'finding')
    return `${counted(progress.pictures, 'picture')} in ${counted(progress.folders, 'folder')} so far, ${formatBytes(progress.bytes)} …`
  const [done, of] = [progress.done, progress.of].map((count) => count.toLocaleString('en-GB'))
  if (progress.stage === 'reading') return `${of} pictures found; ${done} looked into …`
  return `${done} of ${of} pictures ${progress.stage === 'measuring' ? 'measured, to even out the set' : 'foreseen'} …`
}
