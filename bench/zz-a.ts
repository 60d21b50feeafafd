import { newStep } from '@/macros/step'
import { decodePicture } from '@/files/decode'
import { planRender } from '@/engine/plan'
import { renderEncoded } from '@/engine/render'
import { resolveSteps } from '@/engine/resolve'
import { createSampler } from '@/engine/sampler'
import { bytesOf, largePicture } from './pictures'
import { readFileSync } from 'node:fs'
import { instantiateKernels } from '@kernels/binding'
const kernels = await instantiateKernels(await WebAssembly.compile(readFileSync('.build/kernels.wasm')))
const path = await largePicture()
const bytes = await bytesOf(path)
const { source } = await decodePicture(bytes, path)
const plan = planRender(source, resolveSteps([newStep('resize','resize',{by:'longEdge',lengthPx:2048})], source.size, { sampler: createSampler(kernels, source) }), 'full')
for (let k=0;k<6;k++){
const spent = new Map<string, number>()
const run = Object.fromEntries(Object.entries(kernels.run).map(([name, work]) => [name, (...v: unknown[]) => { const s = performance.now(); const r = (work as any)(...v); spent.set(name,(spent.get(name)??0)+performance.now()-s); return r }]))
const t=performance.now()
renderEncoded(k%2? kernels : { run, heap: kernels.heap } as any, plan, { space: 'srgb', channels: 3, dither: true })
console.log((performance.now()-t).toFixed(0), [...spent].map(([n,m])=>`${n} ${m.toFixed(0)}`).join(', '))
}
