/** Options to choose from, with what is chosen now among them, whatever it is. */
export function withOwn<T extends { value: string; label: string }>(
  list: T[],
  own: string | undefined,
): { value: string; label: string }[] {
  return !own || list.some((o) => o.value === own) ? list : [...list, { value: own, label: own }]
}
