// What is left to a moment, in figures and in words (rules C2 and C3), and
// what a number has become. The server says which moment, and by its clock.

import type { Count } from './shapes'

type Forms = Record<string, string>

/**
 * How many of each unit make up a time in ms: what is left is rounded up in the smallest, what has passed is rounded
 * down.
 */
export function split(ms: number, units: number[], up?: boolean): number[] {
  const least = units[units.length - 1]
  let n = Math.max(0, up ? Math.floor(ms / least / 1000) : Math.ceil(ms / least / 1000))
  return units.map((unit) => {
    const size = unit / least
    const many = Math.floor(n / size)
    n -= many * size
    return many
  })
}

const form = (forms: Forms, n: number, lang: string) => forms[new Intl.PluralRules(lang).select(n)] ?? forms.other

/** What stands beside a figure. */
export const label = (forms: Forms, n: number, lang: string) => form(forms, n, lang).replace('{0}', '').trim()

/** The whole in words, without the units of which there are none. */
export function sentence(figures: number[], c: Count): string {
  const all = figures.map((n, i) => form(c.full![i], n, c.lang).replace('{0}', n as unknown as string))
  const parts = all.filter((_, i) => figures[i])
  if (!parts.length) return all[all.length - 1]
  return new Intl.ListFormat(c.lang).format(parts)
}

/** What a number is at an instant, ms since 1970. */
export function value(
  at: number,
  { begins, from, to, size, times, per }: NonNullable<Count['number']>,
  again?: number | false,
): number {
  let gone = Math.max(0, at - begins)
  if (again) gone %= again
  const now = from + size * Math.floor((gone * times) / per)
  return to === undefined ? now : size > 0 ? Math.min(now, to) : Math.max(now, to)
}

/** Writes a countdown into its places in a notice; ms is what is left, or less than nothing. */
export function write(root: ShadowRoot, c: Count, ms: number, at: number): void {
  const up = c.kind === 'since'
  // A visitor's own number began when they met it: so long before its end.
  const run = c.number && (c.kind !== 'visitor' ? c.number : { ...c.number, begins: at + ms - c.period! })
  const figures = run ? [value(at, run, c.then === 'again' && c.period)] : split(up ? -ms : ms, c.units!, up)
  const set = (e: Element | undefined, text: string) => e && e.textContent !== text && (e.textContent = text)
  for (const place of root.querySelectorAll('.count') as unknown as HTMLElement[]) {
    figures.forEach((n, i) => {
      set(
        place.querySelectorAll('b')[i],
        c.number ? n.toLocaleString(c.lang) : String(n).padStart(c.bare && i ? 2 : 1, '0'),
      )
      if (!c.bare && !c.number) set(place.querySelectorAll('i')[i], label((c.labels ?? c.full!)[i], n, c.lang))
    })
    // Read out when reached, and not changed every second under the reader.
    const calm = Math.abs(ms) > 60_000 ? 60_000 : 10_000
    if (ms > 0 && at - Number(place.dataset.said ?? 0) < calm) continue
    place.dataset.said = at as unknown as string
    set(place.firstElementChild!, c.number ? figures[0].toLocaleString(c.lang) : sentence(figures, c))
  }
}
