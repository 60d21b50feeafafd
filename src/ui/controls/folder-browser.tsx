'use client'

import { ArrowUpOutlined, FolderOutlined } from '@ant-design/icons'
import { Alert, Button, Checkbox, Input, Modal } from 'antd'
import { type ReactNode, useCallback, useEffect, useState } from 'react'
import { counted } from '@/base/format'
import { folderOf } from '@/base/paths'
import type { FolderListing } from '@/contract/answers'
import { thumbnailUrl } from '../api/client'
import { useFolder } from '../api/queries'
import styles from './folder-browser.module.css'
import { noteFolder, recentFolders } from './recent-folders'
import { SmallPicture } from './small-picture'

interface Props {
  title: string
  wants: 'folder' | 'picture'
  open: boolean
  /** One that is not there yet can be named: it is made when it is needed. */
  mayBeNew?: boolean
  /** Any folder of this machine, not only those that may be used. */
  anywhere?: boolean
  /** Where to begin; the roots if nothing. */
  start: string | undefined
  onClose(): void
  onChoose(path: string): void
  /** Several pictures at once. */
  onChooseAll?(paths: readonly string[]): void
  /** What else can be done with several. */
  besides?(paths: readonly string[]): ReactNode
}

const maxShown = 120

/** Folders under the roots, with counts and small pictures. */
export function FolderBrowser(props: Props): ReactNode {
  const { title, wants, open, mayBeNew = false, anywhere = false, start, onClose, onChoose, onChooseAll, besides } = props
  const [path, setPath] = useState(start)
  const [added, setAdded] = useState('')
  const [sought, setSought] = useState('')
  const [picked, setPicked] = useState<readonly string[]>([])
  const goTo = useCallback((next: string | undefined): void => {
    setPath(next)
    setPicked([])
    setAdded('')
    setSought('')
  }, [])
  useEffect(() => {
    if (open) goTo(start)
  }, [open, start, goTo])
  const { data, error } = useFolder(path, open, anywhere)
  // Among one there is nothing to choose.
  const [only, ...others] = path ? [] : (data?.folders ?? [])
  useEffect(() => {
    if (open && only && others.length === 0) goTo(only.path)
  }, [open, only, others.length, goTo])
  const atRoots = !path
  const isSought = (name: string): boolean => name.toLowerCase().includes(sought.trim().toLowerCase())
  const folders = data?.folders.filter(({ name, path: whole }) => isSought(atRoots ? whole : name)) ?? []
  const pictures = data?.pictures.filter(({ name }) => isSought(name)) ?? []
  const choose = (chosen: string): void => {
    noteFolder(wants === 'folder' ? chosen : folderOf(chosen))
    onChoose(chosen)
  }
  const pick = (picture: string): void =>
    setPicked(picked.includes(picture) ? picked.filter((other) => other !== picture) : [...picked, picture])
  const takePicked = (): void => {
    if (path) noteFolder(path)
    onChooseAll?.(picked)
  }
  return (
    <Modal
      title={title}
      open={open}
      onCancel={onClose}
      width={680}
      footer={
        wants === 'picture' ? (
          onChooseAll && (
            <div className={styles.take}>
              <span className={styles.hint}>{picked.length === 0 && 'Several: Ctrl or Shift and click, or its box.'}</span>
              {besides?.(picked)}
              <Button type="primary" disabled={picked.length === 0} onClick={takePicked}>
                {picked.length > 0 ? `Take ${counted(picked.length, 'picture')}` : 'Take'}
              </Button>
            </div>
          )
        ) : (
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
              onClick={() => path && choose(added.trim() ? `${path}/${added.trim()}` : path)}
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
          disabled={atRoots}
          onClick={() => goTo(undefined)}
          title={anywhere ? 'Where to begin' : 'The folders that Copper Loop may use'}
        >
          {anywhere ? 'This machine' : 'All folders'}
        </Button>
        <Button
          size="small"
          icon={<ArrowUpOutlined />}
          aria-label="One folder up"
          disabled={atRoots}
          onClick={() => goTo(error ? undefined : (data?.parent ?? undefined))}
        />
        <code>{path ?? (anywhere ? 'Places on this machine' : 'Folders that Copper Loop may use')}</code>
        <Input
          size="small"
          allowClear
          className={styles.find}
          placeholder="Find in here"
          aria-label="Find in this folder"
          value={sought}
          onChange={(event) => setSought(event.target.value)}
        />
      </div>
      {error && (
        <Alert type="error" title={error.message} description="Nothing was changed. All folders leads back to those that may be used." />
      )}
      {!error && !anywhere && <Recent here={path} onGo={goTo} />}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard */}
      <section className={styles.list} aria-label="What lies in here" tabIndex={0}>
        {folders.map((folder) => (
          <div key={folder.path} className={styles.row}>
            <button type="button" className={styles.folder} onClick={() => goTo(folder.path)}>
              <FolderOutlined />
              <b>{atRoots ? folder.path : folder.name}</b>
              <span>
                {counted(folder.pictures, 'picture')}
                {folder.folders > 0 && `, ${counted(folder.folders, 'folder')}`}
              </span>
            </button>
            {wants === 'folder' && (
              <Button size="small" aria-label={`Take ${folder.name}`} onClick={() => choose(folder.path)}>
                Take
              </Button>
            )}
          </div>
        ))}
        {pictures.length > 0 && (
          <div className={styles.pictures}>
            {pictures.slice(0, maxShown).map((picture) => (
              <div key={picture.path} className={styles.picture} data-picked={picked.includes(picture.path) || undefined}>
                <button
                  type="button"
                  title={picture.name}
                  disabled={wants === 'folder'}
                  onClick={(event) => {
                    const several = onChooseAll && (picked.length > 0 || event.ctrlKey || event.metaKey || event.shiftKey)
                    if (several) pick(picture.path)
                    else choose(picture.path)
                  }}
                >
                  <SmallPicture src={thumbnailUrl(picture.path, 160)} alt="" />
                  <span>{picture.name}</span>
                </button>
                {wants === 'picture' && onChooseAll && (
                  <Checkbox
                    className={styles.pick}
                    aria-label={`Pick ${picture.name}`}
                    checked={picked.includes(picture.path)}
                    onChange={() => pick(picture.path)}
                  />
                )}
              </div>
            ))}
          </div>
        )}
        {pictures.length > maxShown && (
          <p>
            The first {maxShown} of {pictures.length.toLocaleString('en-GB')} pictures.
          </p>
        )}
        {data && data.others.length > 0 && <p>{describeOthers(data.others)}</p>}
        {data && sought.trim() !== '' && folders.length + pictures.length === 0 && <p>Nothing in here is called “{sought.trim()}”.</p>}
        {data && data.folders.length + data.pictures.length + data.others.length === 0 && <p>This folder is empty.</p>}
      </section>
    </Modal>
  )
}

/** `3 files of kinds that are not read: DNG, TXT`. */
export function describeOthers(others: FolderListing['others']): string {
  const count = others.reduce((sum, other) => sum + other.count, 0)
  const kinds = others.slice(0, maxKinds).map(({ kind }) => kind)
  return `${counted(count, 'file')} of kinds that are not read: ${kinds.join(', ')}${others.length > maxKinds ? ' …' : ''}`
}
const maxKinds = 5

/** Ways back to folders that were taken before. */
function Recent({ here, onGo }: { here: string | undefined; onGo(path: string): void }): ReactNode {
  const folders = recentFolders().filter((path) => path !== here)
  if (folders.length === 0) return null
  return (
    <div className={styles.recent}>
      <span>Lately:</span>
      {folders.map((path) => (
        <Button key={path} size="small" type="link" title={path} onClick={() => onGo(path)}>
          {path.split('/').slice(-2).join('/')}
        </Button>
      ))}
    </div>
  )
}
