import { kindOf, operationGroups, operations } from '.'

/** The catalogue as a page of Markdown: what each operation is for, its settings, its method. */
export function operationsPage(): string {
  const parts = operationGroups.flatMap((group) => {
    const inGroup = operations.filter((operation) => operation.group === group)
    if (inGroup.length === 0) return []
    const sections = inGroup.map((operation) => {
      const rows = Object.entries(operation.settings).map(
        ([key, setting]) =>
          `| ${setting.group ? `${setting.group}: ` : ''}${setting.label} | \`${key}\` | ${kindOf(setting).reading(setting)} | ${setting.help} |`,
      )
      return [
        `### ${operation.name} (\`${operation.id}\`)`,
        operation.purpose,
        ['| setting | in files | range (default) | |', '| --- | --- | --- | --- |', ...rows].join('\n'),
        `Method: ${operation.method}`,
      ].join('\n\n')
    })
    return [`## ${group[0]?.toUpperCase()}${group.slice(1)}`, ...sections]
  })
  return [
    '# Operations',
    'Made from the catalogue by `npm run docs`. Each one is checked against something outside the project in `tests/outside-checks.test.ts`.',
    ...parts,
    '',
  ].join('\n\n')
}
