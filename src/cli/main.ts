import { spawn } from 'node:child_process'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { AppError, reportOf } from '@/core/errors'
import { openContext } from '@/server/context'
import { isRunnerAway } from '@/server/runs'
import { readCommand, UsageError, usage } from './arguments'
import { type ExitCode, execute, type Machine } from './commands'

/*
 * The command line: the same use cases as the pages, without the web. It works beside a running application, whose runner then does
 * the work, and by itself, with a runner of its own for as long as it takes.
 */

const build = dirname(fileURLToPath(import.meta.url))

async function main(): Promise<ExitCode> {
  try {
    const command = readCommand(process.argv.slice(2))
    const context = openContext(process.env, join(build, 'migrations'))
    try {
      return await execute(
        context,
        command,
        machine(() => isRunnerAway(context)),
      )
    } finally {
      context.db.$client.close()
    }
  } catch (error) {
    if (error instanceof UsageError) {
      process.stderr.write(`${error.message}\n\n${usage}`)
      return 2
    }
    const { code, details } = reportOf(error)
    process.stderr.write(`${new AppError(code, details).message}\n`)
    return 1
  }
}

const wait = (milliseconds: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, milliseconds))

function machine(runnerIsAway: () => boolean): Machine {
  const { stdout, stderr } = process
  return {
    output: {
      say: (line) => void stdout.write(`${line}\n`),
      progress: (line) => {
        if (stderr.isTTY) stderr.write(line === null ? '\r\x1b[K' : `\r\x1b[K${line}`)
      },
    },
    wait,
    withRunner: async (work) => {
      if (!runnerIsAway()) return work()
      const runner = spawn(process.execPath, [join(build, 'runner.mjs'), '--only-queue'], { stdio: ['ignore', 'ignore', 'inherit', 'ipc'] })
      try {
        return await work()
      } finally {
        const ended = new Promise((resolve) => runner.once('exit', resolve))
        runner.kill('SIGTERM')
        await ended
      }
    },
  }
}

process.exitCode = await main()
