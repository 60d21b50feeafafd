/** Constants found by `resolve`: plain data, stored with every result. */
export type Constants = Readonly<Record<string, number | string | boolean | readonly number[]>>
