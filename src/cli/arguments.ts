import { parseArgs } from 'node:util'

/** What somebody typed behind `./loop`, understood. */
export type Command =
  | {
      readonly name: 'run'
      readonly loop: string
      readonly files: readonly string[]
      readonly to: string | undefined
      /** As typed, by question. */
      readonly answers: Readonly<Record<string, string>>
      readonly onlyChanged: boolean
      readonly dry: boolean
      readonly json: boolean
    }
  | { readonly name: 'list'; readonly json: boolean }
  | { readonly name: 'report'; readonly run: string; readonly csv: boolean }
  | { readonly name: 'import'; readonly files: readonly string[]; readonly json: boolean }
  | { readonly name: 'export'; readonly what: string; readonly bundle: boolean; readonly loop: boolean; readonly to: string | undefined }

/** Something about the line that can't be understood: exit code 2. */
export class UsageError extends Error {
  override readonly name = 'UsageError'
}

export const usage = `./loop run NAME [FILES…]   run a loop, over its folder or over the files given
    --to FOLDER              deliver there instead of the loop's first delivery folder
    --answer QUESTION=VALUE  answer what its macros ask; may stand several times
    --changed                only pictures that are new or changed since they were delivered
    --dry                    tell what would happen, write nothing
    --json                   answer as JSON, a line an event
./loop list [--json]       loops, macros and runs
./loop report RUN [--csv]  the report of a run, by its number
./loop import FILE…        take macros, bundles, .cube looks and loops (.loop.zip) in
./loop export MACRO [--bundle] [--to FILE]
./loop export LOOP --loop [--to FILE]      a loop with its macros, without its folders
`

const options = {
  to: { type: 'string' },
  answer: { type: 'string', multiple: true },
  changed: { type: 'boolean' },
  dry: { type: 'boolean' },
  json: { type: 'boolean' },
  csv: { type: 'boolean' },
  bundle: { type: 'boolean' },
  loop: { type: 'boolean' },
} as const
type OptionName = keyof typeof options

/** Options that a command takes; any other is a mistake worth telling. */
const allowed: Readonly<Record<Command['name'], readonly OptionName[]>> = {
  run: ['to', 'answer', 'changed', 'dry', 'json'],
  list: ['json'],
  report: ['csv'],
  import: ['json'],
  export: ['bundle', 'loop', 'to'],
}

/** @throws UsageError */
export function readCommand(line: readonly string[]): Command {
  const { values, positionals } = parsed(line)
  const [name = '', first, ...rest] = positionals
  if (!Object.hasOwn(allowed, name)) throw new UsageError(name ? `There is no command "${name}".` : 'Which command?')
  const command = name as Command['name']
  for (const option of Object.keys(values))
    if (!allowed[command].includes(option as OptionName)) throw new UsageError(`./loop ${command} takes no --${option}.`)
  const { to, json = false, csv = false, bundle = false, loop = false, dry = false, changed = false } = values
  const needed = (what: string): string => {
    if (!first) throw new UsageError(`./loop ${command} needs ${what}.`)
    return first
  }
  const alone = (): void => {
    if (rest.length > 0) throw new UsageError(`"${rest[0]}" is one word too many.`)
  }
  switch (command) {
    case 'run':
      return {
        name: command,
        loop: needed('the name of a loop'),
        files: rest,
        to,
        answers: answersFrom(values.answer ?? []),
        onlyChanged: changed,
        dry,
        json,
      }
    case 'list':
      if (first) throw new UsageError(`"${first}" is one word too many.`)
      return { name: command, json }
    case 'report':
      alone()
      return { name: command, run: needed('the number of a run'), csv }
    case 'import':
      return { name: command, files: [needed('a file'), ...rest], json }
    case 'export':
      alone()
      if (loop && bundle) throw new UsageError('A loop always goes with its macros: --loop takes no --bundle.')
      return { name: command, what: needed(loop ? 'the name of a loop' : 'the name of a macro'), bundle, loop, to }
  }
}

function parsed(line: readonly string[]) {
  try {
    return parseArgs({ args: [...line], options, allowPositionals: true, strict: true })
  } catch (error) {
    throw new UsageError(error instanceof Error ? `${error.message}.`.replace('..', '.') : String(error))
  }
}

function answersFrom(typed: readonly string[]): Record<string, string> {
  return Object.fromEntries(
    typed.map((each) => {
      const at = each.indexOf('=')
      if (at < 1) throw new UsageError(`--answer needs QUESTION=VALUE, not "${each}".`)
      return [each.slice(0, at), each.slice(at + 1)]
    }),
  )
}
