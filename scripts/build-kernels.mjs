// Compiles kernels/assembly to .build/kernels.wasm (Node) and public/kernels.wasm (browser): the same bytes.
import { copyFileSync, mkdirSync } from 'node:fs'
import asc from 'assemblyscript/asc'

mkdirSync('.build', { recursive: true })
mkdirSync('public', { recursive: true })
const { error, stderr } = await asc.main([
  'kernels/assembly/index.ts',
  '-O3',
  '--converge',
  '--noAssert',
  '--enable',
  'simd',
  '--runtime',
  'stub',
  '--importMemory',
  '--initialMemory',
  '1',
  '--outFile',
  '.build/kernels.wasm',
])
if (error) {
  process.stderr.write(stderr.toString())
  process.exit(1)
}
copyFileSync('.build/kernels.wasm', 'public/kernels.wasm')
