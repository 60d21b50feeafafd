import { readdirSync, readFileSync } from 'node:fs'
import { dirname, join, normalize } from 'node:path'
import { describe, expect, it } from 'vitest'

/*
 * Imports run one way: what each folder may import. `type` after a folder: types only.
 * The interface takes request and response types from the server, and nothing that runs.
 */
const allowed: Readonly<Record<string, readonly string[]>> = {
  kernels: [],
  core: [],
  operations: ['core', 'kernels'],
  macro: ['core', 'operations'],
  engine: ['core', 'operations', 'macro', 'kernels'],
  pictures: ['core'],
  db: ['core'],
  processes: ['core'],
  runner: ['core', 'macro', 'engine', 'pictures', 'db', 'kernels', 'processes'],
  server: ['core', 'macro', 'engine', 'pictures', 'db', 'processes'],
  web: ['core', 'server'],
  ui: ['core', 'operations', 'macro', 'engine', 'kernels', 'server type', 'pictures type'],
  app: ['server', 'ui', 'macro type'],
  cli: ['core', 'macro', 'pictures', 'db', 'server', 'runner'],
}

interface Import {
  readonly file: string
  readonly from: string
  readonly to: string
  readonly typeOnly: boolean
}

const folderOf = (path: string): string => (path.startsWith('kernels') ? 'kernels' : (path.split('/')[1] ?? ''))

/** Every import of our own code in our own code; tests may look anywhere. */
function ownImports(): Import[] {
  const files = ['src', 'kernels'].flatMap((root) =>
    readdirSync(root, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile() && /\.tsx?$/.test(entry.name) && !/\.test\.tsx?$|\.d\.ts$/.test(entry.name))
      .map((entry) => join(entry.parentPath, entry.name))
      .filter((path) => !path.startsWith('kernels/assembly')),
  )
  return files.flatMap((file) =>
    [...readFileSync(file, 'utf8').matchAll(/^(?:import|export)\s+(type\s)?[^'"]*?from\s+['"]([^'"]+)['"]/gms)].flatMap(
      ([, type, target = '']) => {
        const path = target.startsWith('@/')
          ? `src/${target.slice(2)}`
          : target.startsWith('@kernels/')
            ? `kernels/${target.slice(9)}`
            : target.startsWith('.')
              ? normalize(join(dirname(file), target))
              : ''
        return path ? [{ file, from: folderOf(file), to: folderOf(path), typeOnly: type !== undefined }] : []
      },
    ),
  )
}

describe('imports', () => {
  const imports = ownImports()
  it('are read at all', () => expect(imports.length).toBeGreaterThan(200))
  it.each(Object.keys(allowed))('of %s stay within what it may use', (folder) => {
    const wrong = imports.filter(
      ({ from, to, typeOnly }) =>
        from === folder && to !== folder && !allowed[folder]?.includes(to) && !(typeOnly && allowed[folder]?.includes(`${to} type`)),
    )
    expect(wrong.map(({ file, to }) => `${file} imports ${to}`)).toEqual([])
  })
  it('know every folder', () => {
    expect(
      readdirSync('src', { withFileTypes: true })
        .filter((entry) => entry.isDirectory())
        .map((entry) => entry.name)
        .sort(),
    ).toEqual(
      Object.keys(allowed)
        .filter((folder) => folder !== 'kernels')
        .sort(),
    )
  })
})

describe('the project', () => {
  it('names no registry’s host in its lock file', () => {
    expect(readFileSync('package-lock.json', 'utf8')).not.toMatch(/"resolved": "http/)
  })
  it('keeps every file of code under four hundred lines', () => {
    const long = [...new Set(ownImports().map(({ file }) => file))].filter((file) => readFileSync(file, 'utf8').split('\n').length >= 400)
    expect(long).toEqual([])
  })
})
