// What a site keeps for use in many notices: audiences, page sets, starting
// points, wordings; and the site itself, which a notice is written for.
import type { Node, Notice, Site, Wording } from '../../api/client'
import { attempt } from '../../instruments/attempts'
import { useSite } from '../../state/sites'
import { clone } from '../../instruments/clone'

/**
 * The list with an entry in place of one of the same name. Audiences and page sets are not replaced so: notices rely on
 * them, and the server refuses a second of a name.
 */
const named = <T extends { name: string }>(list: T[] | undefined, entry: T) => [
  ...(list ?? []).filter((e) => e.name !== entry.name),
  entry,
]
const usable = (name: string) => `“${name}” can be used in every notice now.`

export function useKept() {
  const { detail, change } = useSite()

  /** Changes what the site keeps, then carries on. */
  const keep = (part: (s: Site) => Partial<Site>, done: string, then?: () => void) =>
    attempt(async () => {
      await change(part)
      then?.()
    }, done)
  return {
    saveAudience: (name: string, audience: Node, then: () => void) =>
      keep((s) => ({ audiences: [...(s.audiences ?? []), { name, audience }] }), usable(name), then),
    savePages: (name: string, c: NonNullable<Notice['pages']>, then: () => void) =>
      keep((s) => ({ pageSets: [...(s.pageSets ?? []), { name, ...c }] }), usable(name), then),
    /** Keeps a notice, with its rules, languages and time, for others to be begun with. */
    saveStarting(name: string, from: Notice) {
      const notice = clone(from)
      for (const own of ['state', 'publishedAt', 'copyOf', 'source'] as const) delete notice[own]
      return keep(
        (s) => ({ startingPoints: named(s.startingPoints, { name, notice }) }),
        `“${name}” is a starting point now, in the Library.`,
      )
    },
    saveWording: (name: string, wordings: Record<string, Wording>) =>
      keep((s) => ({ wordings: named(s.wordings, { name, wordings }) }), usable(`The words of ${name}`)),
    /** The words kept under a name, by language. */
    wordingOf: (name: string) => clone(detail.value?.site.wordings?.find((w) => w.name === name)?.wordings ?? {}),
  }
}
