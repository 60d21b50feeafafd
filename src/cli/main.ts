import { type ChildProcess, spawn } from 'node:child_process'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { AppError, reportOf } from '@/base/errors'
import { allowOnlyPictures } from '@/files/loaders'
import { openContext } from '@/services/context'
import { readCommand, UsageError, usage } from './arguments'
import { type ExitCode, execute, type Machine } from './commands'

/*
 * The command line: the same use cases as the pages, without the web. It works beside a running application, whose runner then does
 * the work, and by itself, with a runner of its own for as long as it takes.
 */

const build = dirname(fileURLToPath(import.meta.url))

async function main(): Promise<ExitCode> {
  allowOnlyPictures()
  try {
    const command = readCommand(process.argv.slice(2))
    const context = openContext(process.env, join(build, 'migrations'))
    try {
      return await execute(context, command, machine())
    } finally {
      context.db.$client.close()
    }
  } catch (error) {
    if (error instanceof UsageError) {
      process.stderr.write(`${error.message}\n\n${usage}`)
      return 2
    }
    const { code, details } = reportOf(error)
    process.stderr.write(`${tame(new AppError(code, details).message)}\n`)
    return 1
  }
}

const wait = (milliseconds: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, milliseconds))

/** A name may hold anything, also what a terminal would take for orders: that is written out. New lines and tabs are ours. */
const orders = /(?![\n\t])[\p{Cc}\p{Bidi_C}]/gu
const tame = (text: string): string =>
  text.replaceAll('\r\n', '\n').replace(orders, (sign) => `\\u${sign.charCodeAt(0).toString(16).padStart(4, '0')}`)

function machine(): Machine {
  const { stdout, stderr } = process
  let runner: ChildProcess | undefined
  let interrupts = 0
  process.on('SIGINT', () => {
    // The second time nothing is waited for any more.
    if (++interrupts > 1) process.exit(130)
    stderr.write('\nStopping the run: what is in work is finished, the rest is left out. Press Ctrl-C again to leave at once.\n')
  })
  // Whoever read along may have gone: the work goes on.
  for (const stream of [stdout, stderr]) stream.on('error', () => undefined)
  return {
    output: {
      say: (line) => void stdout.write(`${tame(line)}\n`),
      progress: (line) => {
        if (stderr.isTTY) stderr.write(line === null ? '\r\x1b[K' : `\r\x1b[K${tame(line)}`)
      },
    },
    wait,
    isInterrupted: () => interrupts > 0,
    bringRunner: () => {
      if (runner && runner.exitCode === null && runner.signalCode === null) return
      // In a group of its own: what interrupts this command does not interrupt pictures in work.
      runner = spawn(process.execPath, ['--enable-source-maps', join(build, 'runner.mjs'), '--only-queue'], {
        stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
        detached: true,
      })
    },
    leaveRunner: async (others) => {
      if (!runner || runner.exitCode !== null || runner.signalCode !== null) return
      if (others) {
        runner.disconnect()
        runner.unref()
        return
      }
      const ended = new Promise((resolve) => runner?.once('exit', resolve))
      runner.kill('SIGTERM')
      await ended
    },
  }
}

process.exitCode = await main()
