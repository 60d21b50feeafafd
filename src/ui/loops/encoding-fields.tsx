'use client'

import { Select } from 'antd'
import type { ReactNode } from 'react'
import { keysOf } from '@/base/schema'
import { colourSpaces, type OutputSpaceId } from '@/colour/spaces'
import { bitsOf, type Encoding, formats } from '@/jobs/encoding'
import { Field, SwitchLine, WholeNumber } from './fields'
import styles from './loops.module.css'

const formatOptions = keysOf(formats).map((value) => ({ value, label: formats[value].label }))
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
const gamutOptions = [
  { value: 'hue' as const, label: 'Keep their hue, lose some strength' },
  { value: 'clip' as const, label: 'Cut each channel off' },
]

interface Props {
  encoding: Encoding
  /** The pictures go onto pages: their format, size and resolution follow from these. */
  isOnPages?: boolean
  onChange(part: Partial<Encoding>): void
}

/** Format, quality and colours of a delivery's files. */
export function EncodingFields({ encoding: wanted, isOnPages = false, onChange }: Props): ReactNode {
  // On pages pictures are JPEG files, as large as their places.
  const encoding: Encoding = isOnPages ? { ...wanted, format: 'jpeg' } : wanted
  const { hasQuality, has16Bits, hasProgressive } = formats[encoding.format]
  return (
    <>
      <Field label={isOnPages ? 'Colours' : 'Format'}>
        {!isOnPages && (
          <Select
            aria-label="Format"
            style={{ width: 104 }}
            options={formatOptions}
            value={encoding.format}
            onChange={(format) => onChange({ format })}
          />
        )}
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
      </Field>
      {hasQuality && (
        <>
          <Field label="Quality">
            <WholeNumber
              name="Quality"
              min={1}
              max={100}
              unit="%"
              width={104}
              value={encoding.qualityPercent}
              onChange={(value) => onChange({ qualityPercent: value ?? 88 })}
            />
            <Select
              aria-label="Colour resolution"
              className={styles.grow}
              options={chromaOptions}
              value={encoding.chroma}
              onChange={(chroma) => onChange({ chroma })}
            />
          </Field>
          {!isOnPages && (
            <Field label="At most">
              <WholeNumber
                name="Largest file"
                min={1}
                max={1_000_000}
                unit="kB"
                placeholder="any size"
                value={encoding.mostKb}
                onChange={(mostKb) => onChange({ mostKb })}
              />
              <span className={styles.quiet}>the highest quality that fits</span>
            </Field>
          )}
          {encoding.format === 'jpeg' && !isOnPages && (
            <SwitchLine name="As small as it gets" checked={encoding.smallest} onChange={(smallest) => onChange({ smallest })}>
              as small as it gets: a few per cent fewer bytes, and slow
            </SwitchLine>
          )}
        </>
      )}
      {encoding.format === 'tiff' && (
        <Field label="Compression">
          <Select
            aria-label="Compression"
            className={styles.grow}
            options={compressionOptions}
            value={encoding.compression}
            onChange={(compression) => onChange({ compression })}
          />
        </Field>
      )}
      {!isOnPages && (
        <Field label="Print size">
          <WholeNumber
            name="Dots per inch"
            min={1}
            max={10_000}
            unit="dpi"
            placeholder="not stated"
            value={encoding.dpi}
            onChange={(dpi) => onChange({ dpi })}
          />
        </Field>
      )}
      <details className={styles.more}>
        <summary>Colours and rounding</summary>
        <Field label="Lost colours">
          <Select
            aria-label="Colours that the space lacks"
            className={styles.grow}
            options={gamutOptions}
            value={encoding.gamut}
            onChange={(gamut) => onChange({ gamut })}
          />
        </Field>
        {bitsOf(encoding) === 8 && (
          <SwitchLine name="Dither" checked={encoding.dither} onChange={(dither) => onChange({ dither })}>
            dither, so that soft gradients do not band
          </SwitchLine>
        )}
        {hasProgressive && (
          <SwitchLine name="Progressive" checked={encoding.progressive} onChange={(progressive) => onChange({ progressive })}>
            progressive: shown coarse first, then fine
          </SwitchLine>
        )}
      </details>
    </>
  )
}
