interface Named {
  readonly name: string
}

/** Whether something of these is called that, however it is written. */
export const isTaken = (name: string, others: readonly Named[]): boolean =>
  others.some((other) => other.name.toLowerCase() === name.trim().toLowerCase())

/** A name that nothing of these has yet: with the first number behind it that is free. */
export function freeName(wanted: string, others: readonly Named[]): string {
  if (!isTaken(wanted, others)) return wanted
  for (let number = 2; ; number++) if (!isTaken(`${wanted} ${number}`, others)) return `${wanted} ${number}`
}
