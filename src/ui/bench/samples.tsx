'use client'

import { FolderOpenOutlined } from '@ant-design/icons'
import { Button, Tooltip } from 'antd'
import { memo, type ReactNode, useState } from 'react'
import { post, thumbnailUrl } from '../api/client'
import { useFolder } from '../api/queries'
import { FolderBrowser } from '../controls/folder-browser'
import { SmallPicture } from '../controls/small-picture'
import styles from './samples.module.css'
import { useBench } from './store'

const folderOf = (path: string): string => path.slice(0, path.lastIndexOf('/'))

/** The picture on the bench, and its neighbours in the folder: one click lays another one down. */
export const Samples = memo(function Samples(): ReactNode {
  const sample = useBench((state) => state.sample)
  const set = useBench((state) => state.set)
  const [choosing, setChoosing] = useState(false)
  const folder = sample ? folderOf(sample.path) : undefined
  const { data } = useFolder(folder, folder !== undefined)
  const lay = (path: string): void => {
    set({ sample: { path, fullSize: null, facts: null, error: null }, view: { kind: 'fit' } })
    void post('/api/bench/place', { samplePath: path })
  }
  return (
    <aside className={styles.samples} aria-label="Samples">
      <Tooltip title="Open a picture" placement="left">
        <Button icon={<FolderOpenOutlined />} block onClick={() => setChoosing(true)} aria-label="Open a picture" />
      </Tooltip>
      <ul>
        {data?.pictures.map(({ path, name }) => (
          <li key={path}>
            <button
              type="button"
              title={name}
              aria-label={`Lay ${name} on the bench`}
              aria-pressed={path === sample?.path}
              onClick={() => lay(path)}
            >
              <SmallPicture src={thumbnailUrl(path, 160)} />
            </button>
          </li>
        ))}
      </ul>
      <FolderBrowser
        title="Open a picture"
        wants="picture"
        open={choosing}
        start={folder}
        onClose={() => setChoosing(false)}
        onChoose={(path) => {
          setChoosing(false)
          lay(path)
        }}
      />
    </aside>
  )
})
