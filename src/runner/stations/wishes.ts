import { availableParallelism, hostname } from 'node:os'
import { parseArgs } from 'node:util'
import { reasonOf } from '@/base/errors'
import { problemOfRedis } from '@/base/redis-address'
import { type SharedFolder, sharedFolder } from './folders'

export const usage = `./loop station --redis redis://HOST:6379 --root /HERE=/THERE … [--name NAME] [--workers N] [--main http://HOST:4180]

  --redis    where Redis is; better in COPPER_LOOP_REDIS, since all may read a command's words
  --root     a folder that the main machine calls /THERE, and this one /HERE; one name alone where both call it the same
  --name     what this station is called (default: the machine's name)
  --workers  pictures worked on at a time (default: COPPER_LOOP_WORKERS, else one per core)
  --main     where the main machine's pages are, if not where it says itself

COPPER_LOOP_REDIS_CA  a file with certificates, for rediss:// with an issuer of one's own
COPPER_LOOP_DATA      this station's own folder (default: data/station)`

const maxWorkers = 256

/** What a station is asked to be. */
export interface Wishes {
  /** Where Redis is, with its password. */
  readonly url: string
  readonly folders: readonly SharedFolder[]
  readonly name: string
  /** Pictures worked on at a time. */
  readonly workers: number
  /** Where the main machine's pages are, if not where it says. */
  readonly main: string | undefined
}

/** Reads the command's words and the environment. @returns `help`, or a problem in words */
export function wishesOf(words: readonly string[], environment: NodeJS.ProcessEnv): Wishes | 'help' | { readonly problem: string } {
  try {
    const { values } = parseArgs({
      args: [...words],
      options: {
        redis: { type: 'string' },
        root: { type: 'string', multiple: true },
        name: { type: 'string' },
        workers: { type: 'string' },
        main: { type: 'string' },
        help: { type: 'boolean' },
      },
    })
    if (values.help) return 'help'
    const url = values.redis ?? environment.COPPER_LOOP_REDIS ?? ''
    const named = (values.root ?? []).map((root) => [root, sharedFolder(root)] as const)
    const folders = named.flatMap(([, folder]) => folder ?? [])
    const workers = Number(values.workers ?? environment.COPPER_LOOP_WORKERS ?? availableParallelism())
    const main = values.main?.replace(/\/$/, '')
    const problem =
      (url ? problemOfRedis(url) : `Say where Redis is: --redis redis://HOST:6379\n\n${usage}`) ??
      named.flatMap(([root, folder]) => (folder ? [] : [`--root ${root} is not /HERE=/THERE.`]))[0] ??
      (folders.length > 0 ? undefined : `Say which folders it shares with the main machine: --root /HERE=/THERE\n\n${usage}`) ??
      (Number.isInteger(workers) && workers >= 1 && workers <= maxWorkers
        ? undefined
        : `--workers takes a whole number from 1 to ${maxWorkers}.`) ??
      (main === undefined || isWebAddress(main) ? undefined : '--main takes an address like http://HOST:4180.')
    return problem === undefined ? { url, folders, name: (values.name ?? hostname()).slice(0, 60), workers, main } : { problem }
  } catch (error) {
    return { problem: `${reasonOf(error)}\n\n${usage}` }
  }
}

const isWebAddress = (address: string): boolean => URL.canParse(address) && /^https?:$/.test(new URL(address).protocol)
