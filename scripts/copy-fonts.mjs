// Puts the faces that lines of text are set in where the browser and the runner find them.
import { cpSync, mkdirSync } from 'node:fs'

const faces = ['instrument-sans-400', 'instrument-sans-600', 'instrument-sans-ext-400', 'jetbrains-mono-400']
for (const folder of ['public/fonts', '.build/fonts']) {
  mkdirSync(folder, { recursive: true })
  for (const face of faces) {
    // `ext`: letters of further languages that are written in Latin.
    const [, family, ext, weight] = face.match(/^(.+?)(-ext)?-(\d+)$/) ?? []
    cpSync(`node_modules/@fontsource/${family}/files/${family}-latin${ext ?? ''}-${weight}-normal.woff`, `${folder}/${face}.woff`)
  }
}
