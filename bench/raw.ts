import { execFileSync } from 'node:child_process'
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { askRaw } from '@/files/raw/raw-thread'
import { medianOfTurns, type Row } from './measure'
import { benchFolder, bytesOf, largeRaw } from './pictures'

const theirs = '/usr/bin/dcraw_emu'

/** Raw files: decoding against the library's own command (Debian's libraw-bin) at the same settings, and a worker's memory. */
export async function rawRows(): Promise<Row[]> {
  const path = await largeRaw()
  const bytes = await bytesOf(path)
  const out = join(benchFolder, 'large-24mp.ppm')
  const native = () =>
    execFileSync(theirs, ['-4', '-g', '1', '1', '-w', '-H', '1', '-W', '-o', '0', '-q', '2', '-Z', out, path], {
      env: { ...process.env, OMP_NUM_THREADS: '1' },
      stdio: 'ignore',
    })
  const ours = () => askRaw('whole', bytes, { path })
  const half = () => askRaw('half', bytes, { path })
  const there = existsSync(theirs)
  const [whole = 0, small = 0, emu = 0] = await medianOfTurns(5, [ours, half, ...(there ? [native] : [])])
  const rows: Row[] = [
    {
      what: 'raw, 24 MP, 12 bit: decoding, against the library’s own command, one thread',
      measured: there
        ? `${(whole / emu).toFixed(2)} × (${whole.toFixed(0)} ms against ${emu.toFixed(0)} ms)`
        : `${whole.toFixed(0)} ms; libraw-bin is missing`,
      goal: '≤ 1.5 ×',
      met: there && whole / emu <= 1.5,
    },
    { what: 'the same at half size, for looking', measured: `${small.toFixed(0)} ms`, goal: '', met: true },
  ]
  const answer = execFileSync('npx', ['tsx', 'bench/one-raw.ts'], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'] })
  const { peakMb, seconds } = JSON.parse(answer) as { peakMb: number; seconds: number }
  rows.push({
    what: 'memory of a worker: 24 MP raw file to a JPEG of 2048 px',
    measured: `${peakMb.toFixed(0)} MB in ${seconds.toFixed(1)} s`,
    goal: '≤ 1000 MB',
    met: peakMb <= 1000,
  })
  return rows
}
