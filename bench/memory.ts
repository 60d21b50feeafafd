import { execFileSync } from 'node:child_process'
import type { Row } from './measure'

/** The most memory that one picture takes through the ten steps, in a process of its own as a worker is. */
export function memoryRow(megapixels: 24 | 100, maxMb: number): Row {
  const answer = execFileSync('npx', ['tsx', 'bench/one-picture.ts', String(megapixels)], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'ignore'],
  })
  const { peakMb, seconds } = JSON.parse(answer) as { peakMb: number; seconds: number }
  return {
    what: `memory of a worker: ${megapixels} MP JPEG through the ten steps`,
    measured: `${peakMb.toFixed(0)} MB in ${seconds.toFixed(1)} s`,
    goal: `≤ ${maxMb} MB`,
    met: peakMb <= maxMb,
  }
}
