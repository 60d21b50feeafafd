'use client'

import { type CSSProperties, type ReactNode, useState } from 'react'
import styles from './controls.module.css'

interface Props {
  src: string
  alt?: string
  className?: string
  style?: CSSProperties
}

/** A small picture from the server; where it can't be read, a cross instead of a broken image. */
export function SmallPicture({ src, alt = '', className, style }: Props): ReactNode {
  const [failed, setFailed] = useState<string>()
  if (failed === src)
    return (
      <span className={`${styles.noPicture} ${className ?? ''}`} style={style} role="img" aria-label={`${alt} can’t be read`.trim()}>
        ✕
      </span>
    )
  // biome-ignore lint/performance/noImgElement: made small by our own route, nothing is left to optimise
  return <img src={src} alt={alt} className={className} style={style} loading="lazy" onError={() => setFailed(src)} />
}
