import * as yup from 'yup'
import { kindOf } from './kinds'
import type { Operation } from './operation'

const schemas = new WeakMap<Operation, yup.AnySchema>()

/** Strict schema of one operation's settings: every setting given, none beside them, all inside their ranges. */
export function settingsSchema(operation: Operation): yup.AnySchema {
  const known = schemas.get(operation)
  if (known) return known
  const fields = Object.fromEntries(Object.entries(operation.settings).map(([key, setting]) => [key, kindOf(setting).schema(setting)]))
  const schema = yup.object(fields).noUnknown('has settings that this operation does not know: ${unknown}').strict(true)
  schemas.set(operation, schema)
  return schema
}
