// Writes what is made from the catalogue: docs/operations.md and docs/schema/macro.schema.json.
import { mkdirSync, writeFileSync } from 'node:fs'
import { macroJsonSchema } from '@/macros/json-schema'
import { operationsPage } from '@/operations/as-markdown'

mkdirSync('docs/schema', { recursive: true })
writeFileSync('docs/operations.md', operationsPage())
writeFileSync('docs/schema/macro.schema.json', `${JSON.stringify(macroJsonSchema(), null, 2)}\n`)
