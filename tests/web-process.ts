import { type ChildProcess, execFileSync, spawn } from 'node:child_process'
import { freePort } from './free-port'
import { pause } from './runner-process'

/** The whole application as `./loop start` runs it: supervisor, web and runner. */
export interface RunningApplication {
  readonly supervisor: ChildProcess
  readonly port: number
  readonly address: string
  /** What it printed so far. */
  said(): string
  /** Process ids of its children, by the file they run. */
  children(file: string): number[]
  stop(): Promise<void>
}

export async function startApplication(environment: NodeJS.ProcessEnv): Promise<RunningApplication> {
  const port = await freePort()
  const supervisor = spawn(process.execPath, ['scripts/supervisor.mjs', String(port)], {
    env: { ...environment, COPPER_LOOP_LOG: 'error' },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  let text = ''
  for (const stream of [supervisor.stdout, supervisor.stderr]) stream?.on('data', (bytes) => (text += bytes))
  const address = `http://127.0.0.1:${port}`
  const application: RunningApplication = {
    supervisor,
    port,
    address,
    said: () => text,
    children: (file) =>
      childrenOf(supervisor.pid ?? 0)
        .filter(({ command }) => command.includes(file))
        .map(({ pid }) => pid),
    stop: () => stopped(supervisor),
  }
  await answers(application)
  return application
}

/** Waits until the web answers. */
export async function answers({ address, said }: Pick<RunningApplication, 'address' | 'said'>): Promise<void> {
  for (let tries = 0; tries < 400; tries++) {
    const answer = await fetch(`${address}/api/status`).catch(() => undefined)
    if (answer) return
    await pause(50)
  }
  throw new Error(`The web does not answer: ${said()}`)
}

const stopped = (child: ChildProcess): Promise<void> =>
  new Promise((resolve) => {
    if (child.exitCode !== null || child.signalCode !== null) return resolve()
    child.once('exit', () => resolve())
    child.kill('SIGTERM')
    setTimeout(() => child.kill('SIGKILL'), 25_000).unref()
  })

/** A process and all that it started, and so on. */
export function childrenOf(parent: number): { pid: number; command: string }[] {
  const lines = execFileSync('ps', ['-eo', 'pid=,ppid=,args='], { encoding: 'utf8' }).trim().split('\n')
  const all = lines.map((line) => {
    const [, pid, ppid, command] = line.match(/^\s*(\d+)\s+(\d+)\s+(.*)$/) ?? []
    return { pid: Number(pid), parent: Number(ppid), command: command ?? '' }
  })
  const below = (id: number): typeof all => all.filter((each) => each.parent === id).flatMap((child) => [child, ...below(child.pid)])
  return below(parent)
}
