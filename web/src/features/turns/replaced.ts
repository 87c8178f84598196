/** A list with one of its values replaced. */
export const replaced = <T>(list: readonly T[], at: number, value: T) =>
  list.map((one, n) => (n === at ? value : one));
