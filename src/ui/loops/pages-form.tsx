'use client'

import { ColorPicker, Input, InputNumber, Segmented, Select } from 'antd'
import type { ReactNode } from 'react'
import type { Delivery } from '@/jobs/delivery'
import { type Gather, type GatherKind, gatherFor, type PaperName, pageFormats, paperNames, papers } from '@/jobs/gather'
import { Field, SwitchLine, WholeNumber } from './fields'
import styles from './loops.module.css'

type Shape = 'files' | GatherKind
const shapes: { value: Shape; label: string }[] = [
  { value: 'files', label: 'A file each' },
  { value: 'sheet', label: 'Many on a page' },
  { value: 'set', label: 'A page each' },
]
const shapeOf = ({ gather }: Delivery): Shape => gather?.kind ?? 'files'

/** Whether a delivery writes a file for each picture, or gathers them on pages. */
export function PagesChoice({ delivery, onChange }: { delivery: Delivery; onChange(part: Partial<Delivery>): void }): ReactNode {
  return (
    <Segmented<Shape>
      block
      size="small"
      aria-label="Files or pages"
      value={shapeOf(delivery)}
      options={shapes}
      onChange={(shape) => onChange({ gather: shape === 'files' ? null : gatherFor(shape) })}
    />
  )
}

const paperNameOf = (paper: PaperName): string =>
  paper === 'picture' ? 'As large as the picture' : paper === 'own' ? 'Own size' : papers[paper].name
/** A sheet of many pictures needs a paper. */
const paperOptions = (kind: GatherKind): { value: PaperName; label: string }[] =>
  paperNames.filter((paper) => kind === 'set' || paper !== 'picture').map((value) => ({ value, label: paperNameOf(value) }))

const formatOptions = pageFormats.map((value) => ({ value, label: value.toUpperCase() }))
const maxCaptions = 3

interface Props {
  gather: Gather
  onChange(gather: Gather): void
}

/** How the pages of a delivery are laid. */
export function PagesForm({ gather, onChange }: Props): ReactNode {
  const change = (part: Partial<Gather>): void => onChange({ ...gather, ...part })
  const { kind, paper } = gather
  const isSheet = kind === 'sheet'
  const hasPaper = paper !== 'picture'
  return (
    <>
      <Field label="File">
        <Line label="Name of the pages’ file" value={gather.fileName} onChange={(fileName) => fileName.trim() && change({ fileName })} />
        {isSheet && (
          <Select
            aria-label="Format of the pages"
            style={{ width: 92 }}
            options={formatOptions}
            value={gather.format}
            onChange={(format) => change({ format })}
          />
        )}
      </Field>
      <Field label="Paper">
        <Select
          aria-label="Paper"
          className={styles.grow}
          options={paperOptions(kind)}
          value={paper}
          onChange={(next) => change({ paper: next })}
        />
        {hasPaper && paper !== 'own' && (
          <Segmented<boolean>
            size="small"
            aria-label="How the paper lies"
            value={gather.lying}
            options={[
              { value: false, label: 'Upright' },
              { value: true, label: 'Lying' },
            ]}
            onChange={(lying) => change({ lying })}
          />
        )}
      </Field>
      {paper === 'own' && (
        <Field label="Own size">
          <Millimetres name="Width of the page" least={20} value={gather.ownWidthMm} onChange={(ownWidthMm) => change({ ownWidthMm })} />
          <span aria-hidden="true">×</span>
          <Millimetres
            name="Height of the page"
            least={20}
            value={gather.ownHeightMm}
            onChange={(ownHeightMm) => change({ ownHeightMm })}
          />
        </Field>
      )}
      <Field label="Resolution">
        <WholeNumber
          name="Resolution of the pages"
          width={112}
          min={50}
          max={1200}
          unit="dpi"
          value={gather.dpi}
          onChange={(dpi) => change({ dpi: dpi ?? 300 })}
        />
        <span className={styles.quiet}>margin</span>
        <Millimetres name="Margin" most={100} value={gather.marginMm} onChange={(marginMm) => change({ marginMm })} />
      </Field>
      {isSheet && <GridFields gather={gather} change={change} />}
      {hasPaper && (
        <>
          <SwitchLine name="Fill the cells" checked={gather.fill} onChange={(fill) => change({ fill })}>
            fill {isSheet ? 'the cells' : 'the page'}, and cut off what reaches over
          </SwitchLine>
          <SwitchLine name="Turn pictures" checked={gather.turn} onChange={(turn) => change({ turn })}>
            turn pictures that lie the other way
          </SwitchLine>
        </>
      )}
      <SwitchLine name="Line around each picture" checked={gather.hairline} onChange={(hairline) => change({ hairline })}>
        a thin line around each picture
      </SwitchLine>
      {isSheet && (
        <SwitchLine name="New page for each folder" checked={gather.breakFolders} onChange={(breakFolders) => change({ breakFolders })}>
          each folder begins a new page
        </SwitchLine>
      )}
      <Field label="Ground">
        <ColorPicker disabledAlpha showText value={gather.ground} onChangeComplete={(next) => change({ ground: next.toHexString() })} />
      </Field>
      <Field label="Under each">
        <Input.TextArea
          aria-label="Lines under each picture"
          autoSize={{ minRows: 1, maxRows: maxCaptions }}
          placeholder="up to three lines, such as {name}"
          value={gather.captions.join('\n')}
          onChange={(event) => change({ captions: event.target.value.split('\n').slice(0, maxCaptions) })}
        />
        <InputNumber
          aria-label="Size of the lines"
          style={{ width: 92 }}
          suffix="pt"
          min={3}
          max={72}
          value={gather.captionPt}
          onChange={(captionPt) => change({ captionPt: captionPt ?? 7 })}
        />
      </Field>
      <Field label="Head">
        <Line label="Head of each page" value={gather.head} onChange={(head) => change({ head })} />
      </Field>
      <Field label="Foot">
        <Line label="Foot of each page" value={gather.foot} onChange={(foot) => change({ foot })} />
      </Field>
      <p className={styles.quiet}>
        Under each: the fields of names. File, head and foot: {'{loop} {delivery} {run} {today:yyyy-MM-dd} {page} {pages}'}
      </p>
      <details className={styles.more}>
        <summary>Title and author in the file</summary>
        <Field label="Title">
          <Line label="Title" value={gather.title} onChange={(title) => change({ title })} />
        </Field>
        <Field label="Author">
          <Line label="Author" value={gather.author} onChange={(author) => change({ author })} />
        </Field>
      </details>
    </>
  )
}

function GridFields({ gather, change }: { gather: Gather; change(part: Partial<Gather>): void }): ReactNode {
  return (
    <>
      <Field label="On a page">
        <Segmented<Gather['grid']>
          size="small"
          aria-label="How many on a page"
          value={gather.grid}
          options={[
            { value: 'count', label: 'Columns × rows' },
            { value: 'size', label: 'As many as fit' },
          ]}
          onChange={(grid) => change({ grid })}
        />
      </Field>
      <Field label="">
        {gather.grid === 'count' ? (
          <>
            <Count name="Columns" value={gather.columns} onChange={(columns) => change({ columns })} />
            <span aria-hidden="true">×</span>
            <Count name="Rows" value={gather.rows} onChange={(rows) => change({ rows })} />
          </>
        ) : (
          <Millimetres name="Size of a picture" least={5} value={gather.cellMm} onChange={(cellMm) => change({ cellMm })} />
        )}
        <span className={styles.quiet}>gap</span>
        <Millimetres name="Gap" most={100} value={gather.gapMm} onChange={(gapMm) => change({ gapMm })} />
      </Field>
    </>
  )
}

const Line = ({ label, value, onChange }: { label: string; value: string; onChange(value: string): void }): ReactNode => (
  <Input aria-label={label} maxLength={200} spellCheck={false} value={value} onChange={(event) => onChange(event.target.value)} />
)

const Count = ({ name, value, onChange }: { name: string; value: number; onChange(value: number): void }): ReactNode => (
  <InputNumber
    aria-label={name}
    precision={0}
    min={1}
    max={100}
    style={{ width: 64 }}
    value={value}
    onChange={(next) => onChange(next ?? 1)}
  />
)

interface LengthProps {
  name: string
  value: number
  least?: number
  most?: number
  onChange(value: number): void
}
function Millimetres({ name, value, least = 0, most = 2000, onChange }: LengthProps): ReactNode {
  return (
    <InputNumber
      aria-label={name}
      min={least}
      max={most}
      suffix="mm"
      style={{ width: 92 }}
      value={value}
      onChange={(next) => onChange(next ?? least)}
    />
  )
}
