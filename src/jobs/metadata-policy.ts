import * as yup from 'yup'
import { oneOf, type Shape } from '@/base/schema'

/** How much of what a source tells about itself goes into a delivered file. */
export const metadataPolicies = ['all', 'noLocation', 'rights', 'none'] as const
export type MetadataPolicy = (typeof metadataPolicies)[number]

/** Fields that a delivery writes into every file, as lines with fields in braces; an empty one writes nothing. */
export const writtenFields = ['title', 'description', 'creator', 'rights', 'keywords'] as const
export type WrittenField = (typeof writtenFields)[number]

export type WrittenFields = Readonly<Record<WrittenField, string>>

/** The same fields with other lines. */
export const mapFields = (
  { title, description, creator, rights, keywords }: WrittenFields,
  turn: (line: string) => string,
): WrittenFields => ({
  title: turn(title),
  description: turn(description),
  creator: turn(creator),
  rights: turn(rights),
  keywords: turn(keywords),
})

const field = yup.string().strict(true).defined().max(200).default('')

export const metadataSchema = yup
  .object({
    policy: oneOf(metadataPolicies).default('all'),
    fields: yup.object({ title: field, description: field, creator: field, rights: field, keywords: field }).noUnknown().required(),
  })
  .noUnknown()

/** What delivered files tell about themselves. */
export type MetadataWishes = Shape<typeof metadataSchema>

export const keepAll: MetadataWishes = metadataSchema.getDefault()

/** Keywords are written as one line, separated by commas. */
export const keywordsOf = (line: string): string[] => [
  ...new Set(
    line
      .split(',')
      .map((word) => word.trim())
      .filter(Boolean),
  ),
]
