/** What an operation is compared with, and the comparison. */
export type Checks = Readonly<Record<string, readonly [title: string, check: () => Promise<void>]>>
