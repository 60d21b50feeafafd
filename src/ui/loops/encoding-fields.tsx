'use client'

import { InputNumber, Select, Switch } from 'antd'
import type { ReactNode } from 'react'
import { colourSpaces, type OutputSpaceId } from '@/core/colour/spaces'
import { type Encoding, type EncodingFormat, formats } from '@/core/encoding'
import styles from './loops.module.css'

const formatOptions = (Object.keys(formats) as EncodingFormat[]).map((value) => ({ value, label: formats[value].label }))
const spaceOptions: { value: OutputSpaceId; label: string }[] = [
  ...Object.values(colourSpaces).map(({ id, name }) => ({ value: id, label: name })),
  { value: 'grey', label: 'Grey' },
]
const chromaOptions = [
  { value: '4:4:4' as const, label: 'Full colour resolution (4:4:4)' },
  { value: '4:2:0' as const, label: 'Smaller files (4:2:0)' },
]
const compressionOptions = [
  { value: 'none' as const, label: 'Not compressed' },
  { value: 'lzw' as const, label: 'LZW' },
  { value: 'deflate' as const, label: 'Deflate' },
]
const bitOptions = [
  { value: 8 as const, label: '8 bit' },
  { value: 16 as const, label: '16 bit' },
]

/** Format, quality and colours of a delivery's files. */
export function EncodingFields({ encoding, onChange }: { encoding: Encoding; onChange(part: Partial<Encoding>): void }): ReactNode {
  const { hasQuality, has16Bits, hasProgressive } = formats[encoding.format]
  return (
    <>
      <div className={styles.field}>
        <span>Format</span>
        <Select
          aria-label="Format"
          style={{ width: 104 }}
          options={formatOptions}
          value={encoding.format}
          onChange={(format) => onChange({ format })}
        />
        {has16Bits && (
          <Select
            aria-label="Depth"
            style={{ width: 92 }}
            options={bitOptions}
            value={encoding.bits}
            onChange={(bits) => onChange({ bits })}
          />
        )}
        <Select
          aria-label="Colour space"
          className={styles.grow}
          options={spaceOptions}
          value={encoding.space}
          onChange={(space) => onChange({ space })}
        />
      </div>
      {hasQuality && (
        <div className={styles.field}>
          <span>Quality</span>
          <InputNumber
            aria-label="Quality"
            min={1}
            max={100}
            precision={0}
            value={encoding.qualityPercent}
            suffix="%"
            style={{ width: 104 }}
            onChange={(value) => onChange({ qualityPercent: value ?? 88 })}
          />
          <Select
            aria-label="Colour resolution"
            className={styles.grow}
            options={chromaOptions}
            value={encoding.chroma}
            onChange={(chroma) => onChange({ chroma })}
          />
        </div>
      )}
      {hasQuality && (
        <div className={styles.field}>
          <span>At most</span>
          <InputNumber
            aria-label="Largest file"
            min={1}
            max={1_000_000}
            precision={0}
            placeholder="any size"
            value={encoding.mostKb}
            suffix="kB"
            style={{ width: 150 }}
            onChange={(mostKb) => onChange({ mostKb })}
          />
          <span className={styles.quiet}>the highest quality that fits</span>
        </div>
      )}
      {encoding.format === 'tiff' && (
        <div className={styles.field}>
          <span>Compression</span>
          <Select
            aria-label="Compression"
            className={styles.grow}
            options={compressionOptions}
            value={encoding.compression}
            onChange={(compression) => onChange({ compression })}
          />
        </div>
      )}
      <div className={styles.field}>
        <span>Print size</span>
        <InputNumber
          aria-label="Dots per inch"
          min={1}
          max={10_000}
          placeholder="not stated"
          value={encoding.dpi}
          suffix="dpi"
          style={{ width: 150 }}
          onChange={(dpi) => onChange({ dpi })}
        />
        {hasProgressive && (
          <span className={styles.inline}>
            <Switch
              size="small"
              aria-label="Progressive"
              checked={encoding.progressive}
              onChange={(progressive) => onChange({ progressive })}
            />
            progressive
          </span>
        )}
      </div>
    </>
  )
}
