// Taking pages in and leaving them out of a notice's page conditions.
import type { Entry, Notice } from '../../../api/client'

export type Conditions = NonNullable<Notice['pages']>
export type List = 'include' | 'exclude'

/** The conditions with another list in place; an empty exclude is left out. */
export function put(pages: Conditions, list: List, next: Entry[]): Conditions {
  const out = { ...pages, [list]: next }
  if (!out.exclude?.length) delete out.exclude
  return out
}

/** The conditions without an entry. */
export const without = (pages: Conditions, list: List, i: number) =>
  put(
    pages,
    list,
    (pages[list] ?? []).filter((_, j) => j !== i),
  )

/** The conditions with a page, or a page and all below it, taken in or left out, by the smallest change that does it. `carried` says whether the page is in now. */
export function toggled(pages: Conditions, carried: boolean, path: string, match: 'page' | 'section'): Conditions {
  const at = (list: List, matches: string[]) => (pages[list] ?? []).findIndex((e) => matches.includes(e.match) && e.path === path)
  const out = at('exclude', ['page', 'section'])
  if (out >= 0) return without(pages, 'exclude', out)
  const own = at('include', [match])
  if (own >= 0) return without(pages, 'include', own)
  const list = carried ? 'exclude' : 'include'
  return put(pages, list, [...(pages[list] ?? []), { match, path }])
}
