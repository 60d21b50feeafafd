import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { cpus } from 'node:os'
import { instantiateKernels } from '@kernels/binding'
import sharp from 'sharp'
import { browserRows } from './browser'
import { engineRows } from './engine'
import { floorRows } from './floors'
import { type Row, table } from './measure'
import { memoryRow } from './memory'
import { jpegNoiseRow, lightRows, rangeRows } from './mended'
import { edgeRows, noiseRows } from './quality'
import { rawRows } from './raw'
import { standingOutRows } from './standing-out'
import { stationRows } from './stations'
import { throughputRows } from './throughput'
import { truthRows } from './truth'

/*
 * `./loop bench [GROUP …]`: speed, memory and quality of the main job, in one run. One thread: libvips is held to one, and the kernels have
 * no more. Groups that are not asked for stay in the report as they were measured before.
 */
sharp.concurrency(1)
sharp.cache(false)

const kernels = await instantiateKernels(await WebAssembly.compile(readFileSync('.build/kernels.wasm')))

const groups: Readonly<Record<string, () => Row[] | Promise<Row[]>>> = {
  engine: () => engineRows(kernels),
  floors: () => floorRows(kernels),
  memory: () => [memoryRow(24, 700), memoryRow(100, 1500)],
  raw: rawRows,
  runner: throughputRows,
  stations: stationRows,
  screen: browserRows,
  noise: async () => [...(await noiseRows(kernels)), await jpegNoiseRow()],
  pictures: async () => [
    ...(await edgeRows(kernels)),
    ...(await truthRows(kernels)),
    ...(await rangeRows(kernels)),
    ...(await lightRows(kernels)),
    ...(await standingOutRows(kernels)),
  ],
}

const asked = process.argv.slice(2)
const unknown = asked.filter((name) => !(name in groups))
if (unknown.length > 0) {
  console.error(`There is no group "${unknown.join('", "')}". Groups: ${Object.keys(groups).join(', ')}.`)
  process.exit(2)
}

const reportPath = 'docs/benchmark.md'
const heading = '## '

/** Sections of the report by their group, as they stand. */
function sections(): Map<string, string> {
  const text = existsSync(reportPath) ? readFileSync(reportPath, 'utf8') : ''
  const parts = text.split(`\n${heading}`).slice(1)
  return new Map(parts.map((part) => [part.slice(0, part.indexOf('\n')).toLowerCase(), part.slice(part.indexOf('\n') + 1).trim()]))
}

const machine = `Node ${process.version}, ${cpus()[0]?.model ?? 'unknown processor'}, ${cpus().length} cores`
const report = sections()
const measured: Row[] = []
for (const [name, rowsOf] of Object.entries(groups)) {
  if (asked.length > 0 && !asked.includes(name)) continue
  const rows = await rowsOf()
  measured.push(...rows)
  report.set(name, `Measured on ${new Date().toISOString().slice(0, 10)}: ${machine}.\n\n${table(rows)}`)
}

const titled = (name: string): string => `${name.slice(0, 1).toUpperCase()}${name.slice(1)}`
const about =
  'Made by `./loop bench`, or of one group by `./loop bench GROUP`. One thread, unless a row says otherwise. Bare decode + encode, the chain and the resize are sharp’s (libvips) on the same file, measured turn by turn; medians of one run.'
const text = Object.keys(groups).flatMap((name) => (report.has(name) ? [`${heading}${titled(name)}\n\n${report.get(name)}`] : []))
writeFileSync(reportPath, `# Benchmark\n\n${about}\n\n${text.join('\n\n')}\n`)

console.log(table(measured))
const missed = measured.filter(({ met }) => !met)
console.log(`\n${measured.length - missed.length} of ${measured.length} rows meet their goal.`)
for (const { what, measured: found, goal } of missed) console.log(`not met: ${what}: ${found}${goal ? ` (goal ${goal})` : ''}`)
