// Taking pages in and leaving them out of a notice's page conditions.
import type { Entry, Notice } from '../../../api/client'

export type Conditions = NonNullable<Notice['pages']>
export type List = 'include' | 'exclude'
export type Match = Entry['match']
/** The kinds of entries, and how each begins. */
export const matches: { value: Match; label: string }[] = [
  { value: 'all', label: 'every page' },
  { value: 'home', label: 'the home page' },
  { value: 'page', label: 'the page' },
  { value: 'section', label: 'the section' },
  { value: 'type', label: 'pages of type' },
  { value: 'tag', label: 'pages tagged' },
  { value: 'language', label: 'pages in language' },
  { value: 'query', label: 'addresses with ?' },
  { value: 'pattern', label: 'pages that match' },
  { value: 'set', label: 'the page set' },
]
export type Field = 'path' | 'pattern' | 'name' | 'value'
/** The field that an entry of each kind is about. */
export const fields: Partial<Record<Match, Field>> = {
  page: 'path',
  section: 'path',
  pattern: 'pattern',
  type: 'value',
  tag: 'value',
  language: 'value',
  query: 'name',
  set: 'name',
}

/** What an entry takes, in words. */
export function wordsOf(e: Entry): string {
  const begin = matches.find((m) => m.value === e.match)?.label ?? e.match
  return [begin, e[fields[e.match] ?? 'path'], e.match === 'query' && e.value && `= ${e.value}`]
    .filter(Boolean)
    .join(' ')
}

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

/**
 * The conditions with a page, or a page and all below it, taken in or left out, by the smallest change that does it.
 * `carried` says whether the page is in now.
 */
export function toggled(pages: Conditions, carried: boolean, path: string, match: 'page' | 'section'): Conditions {
  const at = (list: List, matches: string[]) =>
    (pages[list] ?? []).findIndex((e) => matches.includes(e.match) && e.path === path)
  const out = at('exclude', ['page', 'section'])
  if (out >= 0) return without(pages, 'exclude', out)
  const own = at('include', [match])
  if (own >= 0) return without(pages, 'include', own)
  const list = carried ? 'exclude' : 'include'
  return put(pages, list, [...(pages[list] ?? []), { match, path }])
}
