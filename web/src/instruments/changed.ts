const isEmpty = (v: unknown) => v === undefined || v === '' || v === false || (Array.isArray(v) && !v.length)

/** A value with some of its fields changed, and without those that are empty: they mean what absent ones mean. */
export function changed<T extends object>(value: T | undefined, change: { [K in keyof T]?: T[K] | undefined }): T {
  return Object.fromEntries(Object.entries({ ...value, ...change }).filter(([, v]) => !isEmpty(v))) as T
}
