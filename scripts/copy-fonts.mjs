// Puts the faces that lines of text are set in where the browser and the runner find them.
import { cpSync, mkdirSync } from 'node:fs'

const faces = ['instrument-sans-400', 'instrument-sans-600', 'jetbrains-mono-400']
for (const folder of ['public/fonts', '.build/fonts']) {
  mkdirSync(folder, { recursive: true })
  for (const face of faces) {
    const [, family, weight] = face.match(/^(.+)-(\d+)$/) ?? []
    cpSync(`node_modules/@fontsource/${family}/files/${family}-latin-${weight}-normal.woff`, `${folder}/${face}.woff`)
  }
}
