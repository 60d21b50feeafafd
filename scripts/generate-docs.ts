// Writes what is made from the catalogue: docs/operations.md and docs/schema/.
import { mkdirSync, writeFileSync } from 'node:fs'
import { touchUpJsonSchema } from '@/jobs/touch-up-file'
import { macroJsonSchema } from '@/macros/json-schema'
import { operationsPage } from '@/operations/as-markdown'

mkdirSync('docs/schema', { recursive: true })
writeFileSync('docs/operations.md', operationsPage())
writeFileSync('docs/schema/macro.schema.json', `${JSON.stringify(macroJsonSchema(), null, 2)}\n`)
writeFileSync('docs/schema/touch-ups.schema.json', `${JSON.stringify(touchUpJsonSchema(), null, 2)}\n`)
