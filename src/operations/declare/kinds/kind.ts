import type * as yup from 'yup'

/** The setting matters only while another one has one of these values. */
export interface ShownWhen {
  readonly setting: string
  readonly is: readonly (string | number | boolean)[]
}

/** What every setting says of itself. */
export interface Labelled {
  readonly label: string
  readonly help: string
  readonly group?: string
  readonly shownWhen?: ShownWhen
}

/** JSON Schema (2020-12) as plain data. */
export type JsonSchema = Readonly<Record<string, unknown>>

/** What is to be known of a kind of setting. Its control stands in src/ui/controls/kinds.tsx. */
export interface Kind<Setting, Value> {
  /** Strict: a value of this kind, inside the setting's range, and nothing else. */
  schema(setting: Setting): yup.AnySchema
  /** The same as JSON Schema. */
  json(setting: Setting): JsonSchema
  /** What it takes and its default, as a cell of a table. */
  reading(setting: Setting): string
  /** A value as it is said: `46 %`. Where it is missing, the value says it itself. */
  valueInWords?(setting: Setting, value: Value): string
  /** Where a person can be asked for it before a run. */
  readonly asked?: {
    /** What an answer must be, in words. */
    expects(setting: Setting): string
    /** A typed answer. A word that is none stays text, and is refused with the answer. */
    read(typed: string): Value | string
  }
  /** Values it takes, its ends among them: for tests. */
  examples(setting: Setting): readonly Value[]
}
