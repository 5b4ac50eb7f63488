// Changes of a notice by JSON Patch (RFC 6902), as far as findings offer them.
import type { Operation } from '../../api/client'

/** The document with the operations carried out; the given one stays as it is. */
export function patched<T>(doc: T, operations: Operation[]): T {
  const out = JSON.parse(JSON.stringify(doc)) as T
  for (const { op, path, value } of operations) {
    const steps = path
      .split('/')
      .slice(1)
      .map((s) => s.replaceAll('~1', '/').replaceAll('~0', '~'))
    const last = steps.pop() as string
    const parent = steps.reduce((at, s) => at[s] as Record<string, unknown>, out as unknown as Record<string, unknown>)
    if (Array.isArray(parent)) {
      if (op === 'remove') parent.splice(Number(last), 1)
      else parent.splice(last === '-' ? parent.length : Number(last), op === 'replace' ? 1 : 0, value)
    } else if (op === 'remove') delete parent[last]
    else parent[last] = value
  }
  return out
}
