// What the site's audiences ask about and only this page can tell: the facts that are sent with every question.
import type { Memory } from './memory'
import { load } from './program'
import { seconds, viewPath } from './view'
import type { Visits } from './visits'

/** The facts to send, and the version of their list: written version:name,name. */
let version: string
let wants: string[] = []
/** What the site has told of the person, by trait. */
export const person: Record<string, unknown> = {}
/** Facts that parts of the script know. */
export const more: Record<string, unknown> = {}
/** Counts visits, where audiences ask about them; and the loading of it. */
let visits: Visits | undefined
let counting: Promise<unknown> | undefined

/** From now on these are sent; whether any is where none was. */
export function setWants(list: string): boolean {
  const hadNone = !wants[0]
  ;[version, ...wants] = list.split(/[:,]/) as [string, ...string[]]
  return hadNone && !!wants[0]
}

export const wantsVersion = (): string => version
export const isWanted = (fact: string): boolean => wants.includes(fact)

/** Counts the visit, where that is asked about. Where it cannot be loaded nothing is known of visits. */
export async function countVisit(memory: Memory): Promise<void> {
  if (!wants.some((w) => /^(visits|site)/.test(w))) return
  await (counting ??= load<typeof import('./visits')>('visits').then(
    (m) => (visits = m.start(memory, seconds)),
    () => {},
  ))
  visits?.see(viewPath())
}
export const leaveView = (): void => visits?.leave()
/** How long this visit was on the site before this page view, s. */
export const spentBefore = (): number => visits?.spent() ?? 0

/** All that is sent, by fact. */
export function facts(memory: Memory): Record<string, unknown> {
  // Of Intl only where need be: its first use takes a browser long.
  const { Temporal } = window as { Temporal?: { Now: { timeZoneId(): string } } }
  const zone = Temporal?.Now.timeZoneId() ?? Intl.DateTimeFormat().resolvedOptions().timeZone
  const all: Record<string, unknown> = { ...more, 'locale.zone': zone }
  for (const name of wants) {
    const [room, ...names] = name.split('.')
    const rest = names.join('.')
    const known: Record<string, unknown> = {
      visits: visits?.fact(rest),
      person: person[rest],
      event: memory.kept.properties?.[rest],
      'referrer.url': document.referrer,
      'page.title': document.title,
      'device.width': innerWidth,
    }
    // By its room, or by its whole name.
    const value = known[room!] ?? known[name] ?? ''
    if (value !== '') all[name] = value
  }
  return all
}
