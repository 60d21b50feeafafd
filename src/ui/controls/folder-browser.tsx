'use client'

import { ArrowUpOutlined, FolderOutlined } from '@ant-design/icons'
import { Alert, Button, Input, Modal } from 'antd'
import { type ReactNode, useCallback, useEffect, useState } from 'react'
import { counted } from '@/base/format'
import { thumbnailUrl } from '../api/client'
import { useFolder } from '../api/queries'
import styles from './folder-browser.module.css'
import { SmallPicture } from './small-picture'

interface Props {
  title: string
  wants: 'folder' | 'picture'
  open: boolean
  /** One that is not there yet can be named: it is made when it is needed. */
  mayBeNew?: boolean
  /** Where to begin; the roots if nothing. */
  start: string | undefined
  onClose(): void
  onChoose(path: string): void
}

/** Folders under the roots, with counts and small pictures. */
export function FolderBrowser({ title, wants, open, mayBeNew = false, start, onClose, onChoose }: Props): ReactNode {
  const [path, setPath] = useState(start)
  const [added, setAdded] = useState('')
  const goTo = useCallback((next: string | undefined): void => {
    setPath(next)
    setAdded('')
  }, [])
  useEffect(() => {
    if (open) goTo(start)
  }, [open, start, goTo])
  const { data, error } = useFolder(path, open)
  // Among one there is nothing to choose.
  const [only, ...others] = path ? [] : (data?.folders ?? [])
  useEffect(() => {
    if (open && only && others.length === 0) goTo(only.path)
  }, [open, only, others.length, goTo])
  const atRoots = !path
  return (
    <Modal
      title={title}
      open={open}
      onCancel={onClose}
      width={680}
      footer={
        wants === 'folder' && (
          <div className={styles.take}>
            {mayBeNew && (
              <Input
                aria-label="Name of a new folder in here"
                placeholder="or a new folder in here …"
                maxLength={200}
                disabled={atRoots}
                value={added}
                onChange={(event) => setAdded(event.target.value.replaceAll('/', ''))}
              />
            )}
            <Button
              type="primary"
              disabled={atRoots || Boolean(error)}
              onClick={() => path && onChoose(added.trim() ? `${path}/${added.trim()}` : path)}
            >
              {added.trim() ? `Take ${added.trim()}` : 'Take this folder'}
            </Button>
          </div>
        )
      }
    >
      <div className={styles.place}>
        <Button
          size="small"
          icon={<ArrowUpOutlined />}
          aria-label="One folder up"
          disabled={atRoots || !data}
          onClick={() => goTo(data?.parent ?? undefined)}
        />
        <code>{path ?? 'Folders that Copper Loop may use'}</code>
      </div>
      {error && <Alert type="error" title={error.message} />}
      <div className={styles.list}>
        {data?.folders.map((folder) => (
          <button key={folder.path} type="button" className={styles.folder} onClick={() => goTo(folder.path)}>
            <FolderOutlined />
            <b>{atRoots ? folder.path : folder.name}</b>
            <span>
              {counted(folder.pictures, 'picture')}
              {folder.folders > 0 && `, ${counted(folder.folders, 'folder')}`}
            </span>
          </button>
        ))}
        {data && data.pictures.length > 0 && (
          <div className={styles.pictures}>
            {data.pictures.slice(0, 120).map((picture) => (
              <button
                key={picture.path}
                type="button"
                title={picture.name}
                disabled={wants === 'folder'}
                onClick={() => onChoose(picture.path)}
              >
                <SmallPicture src={thumbnailUrl(picture.path, 160)} alt={picture.name} />
              </button>
            ))}
          </div>
        )}
        {data && data.folders.length === 0 && data.pictures.length === 0 && <p>This folder is empty.</p>}
      </div>
    </Modal>
  )
}
