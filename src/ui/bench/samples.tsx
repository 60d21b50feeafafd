'use client'

import { BlockOutlined, CloseOutlined, PlusOutlined, SelectOutlined } from '@ant-design/icons'
import { App, Button, Tooltip } from 'antd'
import { memo, type ReactNode, useEffect, useMemo, useRef, useState } from 'react'
import { fileNameOf, folderOf } from '@/base/paths'
import { routes } from '@/contract/routes'
import type { SamplePicture } from '@/engine/sample'
import { isRawName } from '@/jobs/picture-names'
import { findOperation } from '@/operations'
import { marksOfSet, type PictureTraits } from '@/pixels/traits'
import { call } from '../api/client'
import { FolderBrowser } from '../controls/folder-browser'
import { TakeIntoLoopButton } from '../loops/take-into-loop-button'
import { layAll, laySample, showSamples } from './lay-samples'
import styles from './samples.module.css'
import { isRawOnItsWay, maxSamples, useBench } from './store'
import { isPicture, type SampleState, useSamplePictures } from './use-sample-pictures'

const keepSetValues = (setValues: ReadonlyMap<string, readonly number[]>): void => {
  if (setValues.size > 0 || useBench.getState().setValues.size > 0) useBench.getState().set({ setValues })
}

/** The tray: up to eight pictures, all of them showing what the wire does to them. */
export const Samples = memo(function Samples(): ReactNode {
  const current = useBench((state) => state.sample?.path)
  const samples = useBench((state) => state.samples)
  const steps = useBench((state) => state.history.document.steps)
  const { message } = App.useApp()
  const [choosing, setChoosing] = useState<'picture' | 'folder' | null>(null)
  const [spreading, setSpreading] = useState(false)
  const waits = useBench(isRawOnItsWay)
  const wishes = useMemo(() => {
    const known = steps.filter((step) => findOperation(step.operation))
    return samples.filter((path) => !(waits && isRawName(path))).map((path) => ({ key: path, path, steps: known }))
  }, [samples, steps, waits])
  const pictures = useSamplePictures(wishes, keepSetValues)
  const marksOf = useMemo(() => {
    const traits = samples.flatMap((path) => {
      const state = pictures.get(path)
      return (isPicture(state) && state.traits) || []
    })
    return marksOfSet(traits)
  }, [samples, pictures])

  const takeAway = (path: string): void => {
    const rest = samples.filter((other) => other !== path)
    showSamples(rest, path === current ? (rest[0] ?? null) : (current ?? null))
  }
  const spread = async (folder: string): Promise<void> => {
    setSpreading(true)
    try {
      const found = await call(routes.spread, { asked: { folder } })
      const paths = found.map(({ path }) => path).slice(0, maxSamples)
      if (paths.length === 0) void message.info('There are no pictures in that folder.')
      else showSamples(paths, paths[0] ?? null)
    } catch (problem) {
      void message.error(problem instanceof Error ? problem.message : String(problem))
    } finally {
      setSpreading(false)
    }
  }
  return (
    <aside className={styles.samples} aria-label="Samples">
      <Tooltip title="Lay another picture on the bench" placement="left">
        <Button icon={<PlusOutlined />} block onClick={() => setChoosing('picture')} aria-label="Open a picture" />
      </Tooltip>
      <Tooltip title="Pick a spread: the darkest, brightest, noisiest and one of each shape from a folder" placement="left">
        <Button icon={<BlockOutlined />} block loading={spreading} onClick={() => setChoosing('folder')} aria-label="Pick a spread" />
      </Tooltip>
      <ul>
        {samples.map((path) => (
          <SampleTile
            key={path}
            path={path}
            state={pictures.get(path)}
            marksOf={marksOf}
            isCurrent={path === current}
            onLay={laySample}
            onTakeAway={takeAway}
          />
        ))}
      </ul>
      {samples.length > 0 && (
        <TakeIntoLoopButton
          paths={samples}
          size="small"
          block
          type="text"
          aria-label="Take the tray into a loop"
          title="Gives these pictures to a loop"
          icon={<SelectOutlined />}
        >
          {null}
        </TakeIntoLoopButton>
      )}
      <FolderBrowser
        title={choosing === 'folder' ? 'Pick a spread from a folder' : 'Open a picture'}
        wants={choosing ?? 'picture'}
        open={choosing !== null}
        start={current ? folderOf(current) : undefined}
        onClose={() => setChoosing(null)}
        onChoose={(path) => {
          setChoosing(null)
          if (choosing === 'folder') void spread(path)
          else laySample(path)
        }}
        onChooseAll={(paths) => {
          setChoosing(null)
          layAll(paths)
        }}
        besides={(paths) => <TakeIntoLoopButton paths={paths} />}
      />
    </aside>
  )
})

interface TileProps {
  path: string
  state: SampleState | undefined
  marksOf(traits: PictureTraits): string[]
  isCurrent: boolean
  onLay(path: string): void
  onTakeAway(path: string): void
}

function SampleTile({ path, state, marksOf, isCurrent, onLay, onTakeAway }: TileProps): ReactNode {
  const name = fileNameOf(path)
  const marks = isPicture(state) ? (state.traits ? marksOf(state.traits) : []) : state ? [state.sentence] : []
  return (
    <li>
      <Tooltip title={[name, ...marks].join(': ')} placement="left" mouseEnterDelay={0.4}>
        <button
          type="button"
          aria-label={`Lay ${[name, ...marks].join(', ')} on the bench`}
          aria-pressed={isCurrent}
          onClick={() => onLay(path)}
        >
          {isPicture(state) ? <SampleCanvas picture={state} /> : <span className={styles.waiting}>{state ? 'can’t be shown' : ''}</span>}
          {marks.length > 0 && (
            <span className={styles.mark} aria-hidden="true">
              ▲
            </span>
          )}
        </button>
      </Tooltip>
      <button type="button" className={styles.away} aria-label={`Take ${name} off the tray`} onClick={() => onTakeAway(path)}>
        <CloseOutlined />
      </button>
    </li>
  )
}

export function SampleCanvas({ picture }: { picture: SamplePicture }): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    if (!canvas.current) return
    draw(canvas.current, picture)
    canvas.current.dataset.sample = String(performance.now())
  }, [picture])
  return <canvas ref={canvas} data-sample />
}

/** Style sheets may show it larger than it is, by what it says of itself. */
function draw(canvas: HTMLCanvasElement, { pixels, size: { width, height }, enlarged = 1 }: SamplePicture): void {
  canvas.width = width
  canvas.height = height
  canvas.style.setProperty('--wide', `${Math.round(width * enlarged)}px`)
  canvas.style.setProperty('--ratio', String(width / height))
  canvas.getContext('2d')?.putImageData(new ImageData(pixels, width, height), 0, 0)
}
