import { readFileSync } from 'node:fs'
import ts from 'typescript'
import { describe, expect, it } from 'vitest'

/* The binding is written by hand: here it is held against what the compiled module really exports. */

const files = ['kernels/exports.ts', 'kernels/code-exports.ts', 'kernels/measuring-exports.ts'].map((path) =>
  ts.createSourceFile(path, readFileSync(path, 'utf8'), ts.ScriptTarget.Latest, true),
)
const interfaces = ['KernelExports', 'CodeExports', 'MeasuringExports']

/** How many parameters each function has that the binding declares, through the types it names. */
function declared(): Map<string, number> {
  const aliases = new Map<string, number>()
  const found = new Map<string, number>()
  const points: string[] = []
  for (const file of files) ts.forEachChild(file, (node) => read(file, node))
  for (const name of points) found.set(name, aliases.get('PointKernel') ?? -1)
  return found

  function read(file: ts.SourceFile, node: ts.Node): void {
    if (ts.isTypeAliasDeclaration(node) && ts.isFunctionTypeNode(node.type)) aliases.set(node.name.text, node.type.parameters.length)
    if (ts.isTypeAliasDeclaration(node) && node.name.text === 'PointKernelName' && ts.isUnionTypeNode(node.type))
      for (const name of node.type.types) points.push(name.getText(file).slice(1, -1))
    if (ts.isInterfaceDeclaration(node) && interfaces.includes(node.name.text))
      for (const member of node.members) {
        const name = member.name?.getText(file) ?? ''
        if (ts.isMethodSignature(member)) found.set(name, member.parameters.length)
        else if (ts.isPropertySignature(member)) found.set(name, aliases.get(member.type?.getText(file) ?? '') ?? -1)
      }
  }
}

async function instance(): Promise<WebAssembly.Instance> {
  const memory = new WebAssembly.Memory({ initial: 256, maximum: 32768 })
  return WebAssembly.instantiate(await WebAssembly.compile(readFileSync('.build/kernels.wasm')), {
    env: { memory, abort: () => undefined },
  })
}

describe('the binding of the kernels', () => {
  it('names every function of the compiled module, each with as many parameters, and no other', async () => {
    const exported = Object.entries((await instance()).exports).flatMap(([name, value]) =>
      typeof value === 'function' ? [[name, value.length] as const] : [],
    )
    expect(exported.length).toBeGreaterThan(60)
    expect([...declared()].sort()).toEqual(exported.sort())
  })
})
