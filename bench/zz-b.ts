import { readFileSync } from 'node:fs'
import { instantiateKernels } from '@kernels/binding'
import { allocatePlane } from '@kernels/planes'
import { weightTable, resamplingKernels } from '@/pixels/resampling'
const kernels = await instantiateKernels(await WebAssembly.compile(readFileSync('.build/kernels.wasm')))
const { run, heap } = kernels
for (const width of [64, 256, 1024, 6000]) {
  const h = 252, out = 80
  heap.scope(() => {
    const table = weightTable(resamplingKernels.lanczos3, h*2, Math.round(h*2/2.93), 'columns')
    const s = heap.allocate(width*4*(h+30)), t = heap.allocate(width*4*out)
    const f = new Float32Array(heap.memory.buffer); for (let i=0;i<width*(h+30);i++) f[(s>>2)+i]=Math.random()
    const starts = heap.integers(table.starts.subarray(10, 10+out).map((v)=>v-table.starts[10]!))
    const weights = heap.floats(table.weights.subarray(10*table.taps, (10+out)*table.taps))
    const from = heap.integers(table.surroundings!.from.subarray(10,10+out))
    for (const count of [0, table.surroundings!.count]) {
      const go = () => run.resampleColumns(s, width, t, width, width, out, starts, weights, table.taps, from, count, 2.2/255)
      for (let i=0;i<20;i++) go()
      const n = Math.ceil(60000/width), t0 = performance.now()
      for (let i=0;i<n;i++) go()
      const ns = (performance.now()-t0)*1e6/n/(width/4*out)
      console.log(width, 'taps', table.taps, 'count', count, ns.toFixed(1), 'ns per output vector', (ns/table.taps).toFixed(2), 'per MAC')
    }
  })
}
