/** A value that is there by construction, where the compiler can't know. @throws Error where it is not, after all */
export function present<T>(value: T | undefined): T {
  if (value === undefined) throw new Error('A value that must be there is missing')
  return value
}
