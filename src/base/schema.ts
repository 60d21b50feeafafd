import * as yup from 'yup'

/** A value as schemas give it, with nothing in it to be written to. */
export type ReadonlyDeep<T> = T extends object ? { readonly [Key in keyof T]: ReadonlyDeep<T[Key]> } : T

/** The type that a schema lets through. */
export type Shape<S extends yup.ISchema<unknown>> = ReadonlyDeep<yup.InferType<S>>

/** One of some words. */
export const oneOf = <const Word extends string>(words: readonly Word[]) => yup.string().strict(true).oneOf(words).required()

/** The words that a record is keyed by. */
export const keysOf = <Key extends string>(record: Readonly<Record<Key, unknown>>): Key[] => Object.keys(record) as Key[]
