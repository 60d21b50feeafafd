'use client'

import { LeftOutlined, RightOutlined } from '@ant-design/icons'
import { Button, Segmented } from 'antd'
import { type ReactNode, useMemo, useState } from 'react'
import type { PreflightView } from '@/contract/answers'
import type { Delivery } from '@/jobs/delivery'
import type { Gather } from '@/jobs/gather'
import { leading, type Page, type Placed, runningPt, seenOf } from '@/sheets/layout'
import { ascent, hairline, inkOn } from '@/sheets/look'
import type { PageWords } from '@/sheets/words'
import { thumbnailUrl } from '../api/client'
import { expandWhileWritten, foreseenPages, type OnPage, pageWords } from './foreseen-pages'
import styles from './pages-preview.module.css'

interface Props {
  deliveries: readonly Delivery[]
  check: PreflightView | undefined
  loopName: string
}

/** The pages that a loop would make, with its own pictures. */
export function PagesPreview({ deliveries, check, loopName }: Props): ReactNode {
  const gathering = deliveries.filter(({ gather }) => gather)
  const [chosen, setChosen] = useState<string>()
  const delivery = gathering.find(({ id }) => id === chosen) ?? gathering[0]
  if (!delivery?.gather) return null
  return (
    <section className={styles.preview} aria-label="Pages">
      {gathering.length > 1 && (
        <Segmented
          size="small"
          aria-label="Pages of which delivery"
          value={delivery.id}
          options={gathering.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={setChosen}
        />
      )}
      <Pages key={delivery.id} delivery={delivery} gather={delivery.gather} check={check} loopName={loopName} />
    </section>
  )
}

function Pages({ delivery, gather, check, loopName }: { delivery: Delivery; gather: Gather } & Omit<Props, 'deliveries'>): ReactNode {
  const [at, setAt] = useState(0)
  const { pictures, pages } = useMemo(() => foreseenPages(check, delivery.id, gather), [check, delivery.id, gather])
  const index = Math.min(at, Math.max(0, pages.length - 1))
  const page = pages[index]
  if (!page) return <p className={styles.quiet}>The pages are shown here once there are pictures.</p>
  const words = pageWords(check, loopName, delivery.name, index + 1, pages.length)
  return (
    <>
      <div className={styles.turn}>
        <Button size="small" icon={<LeftOutlined />} aria-label="Page before" disabled={index === 0} onClick={() => setAt(index - 1)} />
        <span aria-live="polite">
          Page {index + 1} of {pages.length.toLocaleString('en-GB')}
        </span>
        <Button
          size="small"
          icon={<RightOutlined />}
          aria-label="Next page"
          disabled={index === pages.length - 1}
          onClick={() => setAt(index + 1)}
        />
      </div>
      <PageDrawing page={page} gather={gather} pictures={pictures} words={words} />
    </>
  )
}

interface DrawingProps {
  page: Page
  gather: Gather
  pictures: readonly OnPage[]
  words: PageWords
}

function PageDrawing({ page, gather, pictures, words }: DrawingProps): ReactNode {
  const ink = inkOn(gather.ground)
  return (
    <svg className={styles.page} viewBox={`0 0 ${page.width} ${page.height}`} role="img" aria-label={`Page ${words.page}`}>
      <rect width={page.width} height={page.height} fill={gather.ground} />
      {page.head && <Line text={expandWhileWritten(gather.head, words)} x={page.head.x} y={page.head.y} size={runningPt} ink={ink} />}
      {page.foot && <Line text={expandWhileWritten(gather.foot, words)} x={page.foot.x} y={page.foot.y} size={runningPt} ink={ink} />}
      {page.pictures.map((place) => {
        const shown = pictures[place.index]
        return shown && <PictureDrawing key={shown.sourcePath} place={place} gather={gather} shown={shown} ink={ink} />
      })}
    </svg>
  )
}

function PictureDrawing({ place, gather, shown, ink }: { place: Placed; gather: Gather; shown: OnPage; ink: string }): ReactNode {
  const { picture, cell, turned, words } = place
  const { x, y, width, height } = seenOf(picture, cell)
  const [w, h] = turned ? [picture.height, picture.width] : [picture.width, picture.height]
  const [middleX, middleY] = [picture.x + picture.width / 2, picture.y + picture.height / 2]
  return (
    <>
      <svg x={x} y={y} width={width} height={height} viewBox={`${x} ${y} ${width} ${height}`} aria-hidden="true">
        <image
          href={thumbnailUrl(shown.sourcePath, gather.kind === 'set' ? 1280 : 320)}
          x={middleX - w / 2}
          y={middleY - h / 2}
          width={w}
          height={h}
          preserveAspectRatio="xMidYMid slice"
          transform={turned ? `rotate(90 ${middleX} ${middleY})` : undefined}
        />
      </svg>
      {gather.hairline && (
        <rect x={x} y={y} width={width} height={height} fill="none" stroke={hairline.colour} strokeWidth={hairline.widthPt} />
      )}
      {shown.captions.map((text, i) => (
        <svg
          // biome-ignore lint/suspicious/noArrayIndexKey: lines have no identity beyond their place
          key={i}
          x={words.x}
          y={words.y + i * gather.captionPt * leading}
          width={words.width}
          height={gather.captionPt * leading}
          aria-hidden="true"
        >
          <text
            x={words.width / 2}
            y={ascent * gather.captionPt}
            fontSize={gather.captionPt}
            fill={ink}
            textAnchor="middle"
            className={styles.words}
          >
            {text}
          </text>
        </svg>
      ))}
    </>
  )
}

const Line = ({ text, x, y, size, ink }: { text: string; x: number; y: number; size: number; ink: string }): ReactNode => (
  <text x={x} y={y + ascent * size} fontSize={size} fill={ink} className={styles.words}>
    {text}
  </text>
)
