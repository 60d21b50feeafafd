import { readdirSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { describe, expect, it } from 'vitest'

/* Style sheets are not typed: here every class that a component names is looked for in its sheet, and the other way round. */

const components = readdirSync('src/ui', { recursive: true, withFileTypes: true })
  .filter((entry) => entry.isFile() && /\.tsx$/.test(entry.name))
  .map((entry) => join(entry.parentPath, entry.name))

const sheetOf = (component: string, path: string): string =>
  path.startsWith('@/') ? join('src', path.slice(2)) : join(dirname(component), path)
const classesIn = (sheet: string): Set<string> =>
  new Set([...readFileSync(sheet, 'utf8').matchAll(/\.([a-zA-Z][\w-]*)(?=[\s,:{[.>+~)])/g)].map(([, name = '']) => name))

const used = components.flatMap((component) => {
  const text = readFileSync(component, 'utf8')
  return [...text.matchAll(/import (\w+) from '([^']+\.module\.css)'/g)].flatMap(([, name = '', path = '']) =>
    [...text.matchAll(new RegExp(`(?<![/\\w])${name}\\.(\\w+)`, 'g'))].map(([, named = '']) => ({
      component,
      sheet: sheetOf(component, path),
      named,
    })),
  )
})

describe('style sheets', () => {
  it('have every class that components name', () => {
    expect(used.length).toBeGreaterThan(300)
    expect(used.filter(({ sheet, named }) => !classesIn(sheet).has(named)).map(({ component, named }) => `${component}: ${named}`)).toEqual(
      [],
    )
  })
  it('have no class that none names', () => {
    const unused = [...new Set(used.map(({ sheet }) => sheet))].flatMap((sheet) => {
      const named = new Set(used.filter((use) => use.sheet === sheet).map((use) => use.named))
      return [...classesIn(sheet)]
        .filter((name) => !named.has(name) && !/^(ant|css)-/.test(name) && !/^\d/.test(name))
        .map((name) => `${sheet}: ${name}`)
    })
    expect(unused).toEqual([])
  })
})
