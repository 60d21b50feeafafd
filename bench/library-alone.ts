import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'

/*
 * `library-alone.ts FOLDER HALF`: every second picture of a folder, resized by the native library alone, on one core. Answers with the
 * seconds it took, the first picture not counted.
 */
sharp.concurrency(1)
sharp.cache(false)

const [folder = '', half = '0'] = process.argv.slice(2)
const names = readdirSync(folder).filter((_, i) => i % 2 === Number(half))
const one = (name: string): Promise<unknown> =>
  sharp(readFileSync(join(folder, name)))
    .resize(2048)
    .jpeg({ quality: 88 })
    .toBuffer()
await one(names[0] ?? '')
const started = performance.now()
for (const name of names) await one(name)
process.send?.((performance.now() - started) / 1000)
