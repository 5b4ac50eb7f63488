// Changes of a notice by JSON Patch (RFC 6902), as findings offer them.
import { applyPatch } from 'fast-json-patch'
import { CallError, type Operation } from '../../api/client'
import { clone } from '../../instruments/clone'

/** The document with the operations carried out; the given one stays. Throws a CallError where one no longer fits. */
export function patched<T>(doc: T, operations: Operation[]): T {
  const plain = clone(doc) as T // without proxies, of which nothing may be left
  try {
    return applyPatch(plain, operations as Parameters<typeof applyPatch>[1], true).newDocument as T
  } catch {
    throw new CallError({
      type: 'about:blank',
      status: 409,
      title: 'Changed meanwhile',
      detail: 'What this would fix has changed since. Look at the findings again.',
    })
  }
}
