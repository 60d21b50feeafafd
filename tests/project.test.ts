import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'

/** Files of code that belong to the project. */
const files = ['src', 'kernels', 'demo', 'scripts', 'tests', 'bench'].flatMap((root) =>
  readdirSync(root, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && /\.(tsx?|mjs|cjs)$/.test(entry.name))
    .map((entry) => join(entry.parentPath, entry.name)),
)

describe('the project', () => {
  it('names no registry’s host in its lock file', () => {
    expect(readFileSync('package-lock.json', 'utf8')).not.toMatch(/"resolved": "http/)
  })
  it('keeps every file of code under four hundred lines', () => {
    expect(files.length).toBeGreaterThan(300)
    expect(files.filter((path) => readFileSync(path, 'utf8').split('\n').length >= 400)).toEqual([])
  })
})
