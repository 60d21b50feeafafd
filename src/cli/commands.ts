import { readFile, writeFile } from 'node:fs/promises'
import { basename, resolve } from 'node:path'
import { AppError, reasonOf } from '@/base/errors'
import { counted, formatBytes, formatDuration } from '@/base/format'
import { describeIntake, type Loop } from '@/jobs/loop'
import { describeEnd, isOver } from '@/jobs/run'
import { type Answers, asksForFile, type Question, readAnswers } from '@/macros/open'
import { exportBundle, importFile } from '@/services/bundles'
import type { Context } from '@/services/context'
import { keepBytes } from '@/services/kept-files'
import { exportLoop, importLoop } from '@/services/loop-files'
import { allLoops } from '@/services/loops'
import { exportMacro, shelf } from '@/services/macros'
import { type Preflight, preflight } from '@/services/preflight/preflight'
import { questionsOfLoop } from '@/services/preflight/questions'
import { RunnerWatch } from '@/services/runner-watch'
import { stopRun } from '@/services/runs/control'
import { reportCsv, runReport } from '@/services/runs/report'
import { startRun } from '@/services/runs/start'
import { listRuns, type RunSummary, runDetail, runSummary } from '@/services/runs/summary'
import { hasRunsToServe } from '@/store/queue'
import { findRun, findRunByNumber } from '@/store/runs'
import type { Command } from './arguments'

/** Where a command's words go. */
export interface Output {
  /** A line on the standard output, or several. */
  say(line: string): void
  /** Progress that replaces itself on a terminal; null ends it. */
  progress(line: string | null): void
}

/** What the command line needs of the machine besides the database. */
export interface Machine {
  readonly output: Output
  /** Starts a runner, unless the one that was brought before is still there. */
  bringRunner(): void
  /** The runner that was brought is not needed any more, unless others have work for it. */
  leaveRunner(others: boolean): Promise<void>
  /** Whether somebody at the terminal wants to end. */
  isInterrupted(): boolean
  wait(milliseconds: number): Promise<void>
}

/** 0: all went well. 1: something failed. 2: the line was not understood. 3: the loop is not ready to run. */
export type ExitCode = 0 | 1 | 2 | 3

type Of<N extends Command['name']> = Extract<Command, { name: N }>

export async function execute(context: Context, command: Command, machine: Machine): Promise<ExitCode> {
  switch (command.name) {
    case 'run':
      return runLoop(context, command, machine)
    case 'list':
      return list(context, command, machine.output)
    case 'report':
      return report(context, command, machine.output)
    case 'import':
      return importAll(context, command, machine.output)
    case 'export':
      return exportOne(context, command, machine.output)
  }
}

/** By id, or by name: letters' case does not matter, and the beginning of a name is enough where only one begins so. */
function named<T extends { readonly id: string; readonly name: string }>(things: readonly T[], wanted: string, what: string): T {
  const lower = wanted.toLowerCase()
  const exact = things.filter(({ id, name }) => id === wanted || name.toLowerCase() === lower)
  const found = exact.length > 0 ? exact : things.filter(({ name }) => name.toLowerCase().startsWith(lower))
  const [one] = found
  if (one && found.length === 1) return one
  const names = (found.length > 1 ? found : things).map(({ name }) => name).join(', ')
  throw new AppError('notNamed', { what, name: wanted, names: names || 'none' })
}

async function runLoop(context: Context, command: Of<'run'>, machine: Machine): Promise<ExitCode> {
  const { output } = machine
  const stored = named(allLoops(context), command.loop, 'loop')
  const loop = command.to ? deliveringTo(stored, resolve(command.to)) : stored
  const files = command.files.length > 0 ? command.files.map((file) => resolve(file)) : undefined
  const questions = questionsOfLoop(context, loop)
  const answers = await placeAnswers(context, questions, readAnswers(questions, command.answers))
  const check = await preflight(context, loop, { answers, files })
  if (command.dry || check.problems.some(({ blocks }) => blocks)) {
    tellCheck(check, command, output)
    return check.problems.some(({ blocks }) => blocks) ? 3 : 0
  }
  const started = await startRun(context, loop, { answers, files, made: check, only: command.onlyChanged ? 'changed' : 'all' })
  const ended = await follow(context, started.id, command.json, machine)
  await machine.leaveRunner(hasRunsToServe(context.db))
  tellEnd(context, ended, command.json, output)
  const isWhole = ended.state === 'done' && ended.gathered.every(({ problem }) => problem === null)
  return ended.totals.failed > 0 || !isWhole ? 1 : 0
}

/** An answer that names a file on the line is kept as one chosen in a page would be; a folder's path is made whole. */
async function placeAnswers(context: Context, questions: readonly Question[], answers: Answers): Promise<Answers> {
  const kept = Object.entries(answers).map(async ([question, answer]) => {
    const asked = questions.find((candidate) => candidate.question === question)
    if (typeof answer === 'string' && asked?.folder) return [question, resolve(answer)] as const
    if (typeof answer !== 'string' || !asked || !asksForFile(asked)) return [question, answer] as const
    const bytes = await readFile(answer).catch(() => {
      throw new AppError('fileMissing', { path: answer })
    })
    return [question, await keepBytes(context.dataFolder, bytes, basename(answer))] as const
  })
  return Object.fromEntries(await Promise.all(kept))
}

const deliveringTo = (loop: Loop, folder: string): Loop => ({
  ...loop,
  deliveries: loop.deliveries.map((delivery, i) => (i === 0 ? { ...delivery, folder } : delivery)),
})

function tellCheck({ problems, pictures, totals }: Preflight, { json }: Of<'run'>, { say }: Output): void {
  if (json) {
    say(
      JSON.stringify({
        problems,
        totals,
        pictures: pictures.map(({ sourcePath, targets, remark, touchUp }) => ({
          sourcePath,
          targets: targets.map(({ path }) => path),
          remark,
          touchUp,
        })),
      }),
    )
    return
  }
  for (const { blocks, sentence } of problems) say(`${blocks ? 'Can’t run' : 'Note'}: ${sentence}`)
  for (const { relativePath, targets, remark } of pictures)
    say(
      `${relativePath} → ${targets.map(({ path, size }) => `${path} (${size.width} × ${size.height} px)`).join(', ') || 'nothing'}${remark ? ` · ${remark}` : ''}`,
    )
  say(`${counted(totals.pictures, 'picture')}, ${formatBytes(totals.bytes)}. Nothing was written.`)
}

const followEveryMs = 250

/**
 * Tells how far a run is until it is over, and brings a runner whenever none is at work. A paused run says why and is
 * waited for: it goes on by itself once that is mended. Whoever interrupts stops it.
 */
async function follow(context: Context, id: string, json: boolean, machine: Machine): Promise<RunSummary> {
  const { output } = machine
  const watch = new RunnerWatch()
  let last = ''
  for (;;) {
    const runner = watch.check(context)
    if (runner.away) machine.bringRunner()
    if (machine.isInterrupted() && !isOver(runSummary(context, id).state)) stopRun(context, id)
    const run = runSummary(context, id)
    const { totals } = run
    const over = totals.done + totals.failed + totals.skipped
    const line = JSON.stringify([run.state, totals, run.reason])
    if (json && line !== last) output.say(JSON.stringify({ run: run.number, state: run.state, reason: run.reason, ...totals }))
    if (!json)
      output.progress(
        `Run ${run.number}: ${over} of ${over + totals.waiting + totals.working}${run.rate ? `, ${run.rate.toFixed(1)} a second` : ''}${run.secondsLeft ? `, ${formatDuration(run.secondsLeft)} left` : ''}${run.reason ? ` · paused: ${run.reason}` : ''}${runner.trouble ? ` · waiting: ${runner.trouble}` : ''}`,
      )
    last = line
    if (isOver(run.state) && run.totals.working === 0) return run
    await machine.wait(followEveryMs)
  }
}

function tellEnd(context: Context, run: RunSummary, json: boolean, { say, progress }: Output): void {
  progress(null)
  if (json) {
    say(JSON.stringify(runReport(context, run.id)))
    return
  }
  const { results: rows, leftOut } = runDetail(context, run.id)
  for (const { error, remarks, results } of rows) {
    if (error) say(`Failed: ${error}`)
    for (const remark of remarks) say(`Note: ${remark}`)
    for (const { path, marks } of results) if (marks.length > 0) say(`Standing out: ${path} (${marks.join(', ')})`)
  }
  for (const sentence of leftOut) say(`Not taken: ${sentence}`)
  for (const { path, pages, pictures, problem } of run.gathered)
    say(
      problem === null
        ? `Pages: ${path} (${counted(pictures, 'picture')} on ${counted(pages, 'page')})`
        : `The pages could not be made: ${problem}`,
    )
  say(`Run ${run.number}: ${describeEnd(run)}; ${formatBytes(run.deliveredBytes)} in ${run.folders.join(', ')}.`)
}

function list(context: Context, { json }: Of<'list'>, { say }: Output): ExitCode {
  const loops = allLoops(context)
  const macros = shelf(context, loops)
  const { runs } = listRuns(context)
  if (json) {
    say(
      JSON.stringify({
        loops: loops.map(({ id, name }) => ({ id, name })),
        macros: macros.map(({ id, name, revision }) => ({ id, name, revision })),
        runs,
      }),
    )
    return 0
  }
  say('Loops')
  for (const { name, intake } of loops) say(`  ${name} · takes ${describeIntake(intake) || 'nothing yet'}`)
  say('Macros')
  for (const { name, revision, steps } of macros) say(`  ${name} r${revision} · ${counted(steps.length, 'step')}`)
  say('Runs')
  for (const { number, loopName, state, totals } of runs.slice(0, 20))
    say(`  ${number} · ${loopName} · ${state}, ${totals.done} done, ${totals.failed} failed`)
  return 0
}

function report(context: Context, { run: wanted, csv }: Of<'report'>, { say }: Output): ExitCode {
  const run = findRunByNumber(context.db, Number(wanted)) ?? findRun(context.db, wanted)
  if (!run) {
    const newest = listRuns(context).runs.map(({ number }) => number)
    throw new AppError('notNamed', { what: 'run', name: wanted, names: newest.join(', ') || 'none' })
  }
  const made = runReport(context, run.id)
  say(csv ? reportCsv(made) : JSON.stringify(made, null, 2))
  return 0
}

async function importAll(context: Context, { files, json }: Of<'import'>, { say }: Output): Promise<ExitCode> {
  let code: ExitCode = 0
  for (const file of files)
    try {
      const bytes = await readFile(file).catch(() => {
        throw new AppError('fileMissing', { path: file })
      })
      if (file.toLowerCase().endsWith('.loop.zip')) {
        const { id, name } = await importLoop(context, bytes, basename(file))
        say(json ? JSON.stringify({ id, name }) : `${name} is among the loops, with its macros. Name its folders before it runs.`)
        continue
      }
      const { id, name, revision } = await importFile(context, bytes, basename(file))
      say(json ? JSON.stringify({ id, name, revision }) : `${name} is on the shelf.`)
    } catch (error) {
      if (!(error instanceof AppError)) throw error
      say(json ? JSON.stringify({ file, ...error.report, sentence: error.message }) : error.message)
      code = 1
    }
  return code
}

async function exportOne(context: Context, { what, bundle, loop, to }: Of<'export'>, { say }: Output): Promise<ExitCode> {
  if (loop) {
    const { id, name } = named(allLoops(context), what, 'loop')
    const path = await writeNew(to ?? `${name.replaceAll('/', '-')}.loop.zip`, await exportLoop(context, id))
    say(`${name} is in ${path}.`)
    return 0
  }
  const macro = named(shelf(context, []), what, 'macro')
  const content = bundle ? await exportBundle(context, macro.id) : exportMacro(context, macro.id)
  if (!to && !bundle) {
    say(String(content).trimEnd())
    return 0
  }
  const path = await writeNew(to ?? `${macro.name.replaceAll('/', '-')}.macro.zip`, content)
  say(`${macro.name} r${macro.revision} is in ${path}.`)
  return 0
}

/** A file that is there is somebody's: it is not written over. */
async function writeNew(to: string, content: string | Buffer): Promise<string> {
  const path = resolve(to)
  await writeFile(path, content, { flag: 'wx' }).catch((error: NodeJS.ErrnoException) => {
    throw error.code === 'EEXIST'
      ? new AppError('deliveryExists', { path })
      : new AppError('deliveryUnwritable', { path, reason: reasonOf(error) })
  })
  return path
}
