/** How much of what a source tells about itself goes into a delivered file. */
export const metadataPolicies = ['all', 'noLocation', 'rights', 'none'] as const
export type MetadataPolicy = (typeof metadataPolicies)[number]

/** Fields that a delivery writes into every file, as lines with fields in braces; an empty one writes nothing. */
export const writtenFields = ['title', 'description', 'creator', 'rights', 'keywords'] as const
export type WrittenField = (typeof writtenFields)[number]

export type WrittenFields = Readonly<Record<WrittenField, string>>

export interface MetadataWishes {
  readonly policy: MetadataPolicy
  readonly fields: WrittenFields
}

export const keepAll: MetadataWishes = { policy: 'all', fields: { title: '', description: '', creator: '', rights: '', keywords: '' } }

/** Keywords are written as one line, separated by commas. */
export const keywordsOf = (line: string): string[] => [
  ...new Set(
    line
      .split(',')
      .map((word) => word.trim())
      .filter(Boolean),
  ),
]
