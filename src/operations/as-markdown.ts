import { operationGroups, operations, type Setting } from '.'

/** A setting's range and default as one cell of a table. */
function rangeOf(setting: Setting): string {
  if (setting.kind === 'toggle') return `on or off (${setting.default ? 'on' : 'off'})`
  if (setting.kind === 'measured') return `${setting.count} numbers measured on a picture (none)`
  if (setting.kind === 'text') return `a line of text (${setting.default.replaceAll('|', '\\|')})`
  if (setting.kind === 'file') return setting.holds === 'look' ? 'a `.cube` file (none)' : 'a picture file (none)'
  if (setting.kind === 'macro') return 'a macro’s revision, kept whole (none)'
  if (setting.kind === 'colour') return 'a colour like `#a4542a`'
  if (setting.kind === 'choice')
    return `${setting.options.map((option) => option.label).join(', ')} (${setting.options.find((option) => option.value === setting.default)?.label})`
  if (setting.kind === 'points') return `2 to 16 points, 0–255 (${setting.default.map(([x, y]) => `${x}→${y}`).join(', ')})`
  const unit = setting.unit ? ` ${setting.unit}` : ''
  return `${setting.min} … ${setting.max}${unit} (${setting.default}${unit})`
}

/** The catalogue as a page of Markdown: what each operation is for, its settings, its method. */
export function operationsPage(): string {
  const parts = operationGroups.flatMap((group) => {
    const inGroup = operations.filter((operation) => operation.group === group)
    if (inGroup.length === 0) return []
    const sections = inGroup.map((operation) => {
      const rows = Object.entries(operation.settings).map(
        ([key, setting]) =>
          `| ${setting.group ? `${setting.group}: ` : ''}${setting.label} | \`${key}\` | ${rangeOf(setting)} | ${setting.help} |`,
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
