// What this visitor did on the site, in their own browser on the site's own
// origin, as far as the site's notices ask about it; on all hosts of its domain
// where the site shares it between them. Where storage is barred it lasts as
// long as the page.

/** Acts under one mark, as the server takes them. */
export interface Report {
  mark: string
  page: string
  shown: string[]
  acts: { of: number; act: string }[]
  /** A bar for the top stood at the bottom. */
  blocked?: boolean
}

/** When a browser met a notice that has a goal, and what it takes to tell that it was reached. */
export interface Meeting extends Partial<Omit<Report, 'acts' | 'blocked'>> {
  of?: number
  until?: number
}

interface Acts {
  closed?: string
  clicked?: string
  answered?: string
  converted?: string
  /** When its own countdown began for this visitor, and when that last took them to another page. */
  met?: string
  gone?: string
  /** When it was shown, once a page view. */
  shown?: string[]
  counts?: Record<string, number>
}

/** Kept only where an audience asks about visits. */
interface Visits {
  number: number
  first: number
  last: number
  /** Before this visit, ms since 1970; 0 if there was none. */
  before: number
  pages: number
  total: number
  landing: string
  /** On the site in all, and on this visit, before this page view, s. */
  seconds: number
  spent: number
  seen: string[]
}

interface Kept {
  notices: Record<string, Acts>
  events?: Record<string, string[]>
  visits?: Visits
  /** What was answered to the consent question; and what of that is still to be told, or need not be told again. */
  consent?: {
    id: string
    at: string
    granted: string[]
    refused: string[]
    of: string
    signal?: boolean
    rule?: string
  }
  /** Ids of the notices that were folded away, the latest last. */
  folded?: string[]
  /** What puts this visitor into groups by chance; which notices were met; and what is still to be told of them. */
  draw?: string
  met?: Record<string, Meeting>
  uncounted?: Report[]
  /** Properties of events that texts want, as told with the last, by NAME.PROPERTY. */
  properties?: Record<string, string | number | boolean>
  /** Answers that are still to be sent, and what was sent already; these names lie in visitors' browsers. */
  untold?: object[]
  told?: Record<string, string>
  /** What was acknowledged or declared last, by document; and what of that is still to be told. */
  acknowledged?: Record<string, { id: string; version?: number; of?: string; at: string }>
  unsent?: object[]
}

/** So many showings of a notice, and tellings of an event, are kept. */
const most = 100

/** Where something is kept by name. */
type Box = Pick<Storage, 'getItem' | 'setItem'>

/** What is remembered of the site with that key. */
export function remembered(key: string) {
  const name = `mastflag.${key}`
  let kept: Kept = { notices: {} }
  let session = ''
  /** Nothing can be kept beyond this page. */
  let barred = false
  /** For good, and for the session; asked for anew each time, because asking may be barred. */
  let boxes: () => [Box, Box] = () => [localStorage, sessionStorage]

  const read = (): void => {
    try {
      session = boxes()[1].getItem(name) ?? session
      const found = JSON.parse(boxes()[0].getItem(name) ?? 'null') as Kept | null
      if (found?.notices) kept = found
    } catch (e) {
      // Not what was written, or barred: what is known stays.
      barred ||= !(e instanceof SyntaxError)
    }
  }

  /** Changes what is kept. Another tab may have written meanwhile. */
  const change = (how: (kept: Kept) => void): void => {
    read()
    how(kept)
    try {
      boxes()[0].setItem(name, JSON.stringify(kept))
    } catch {
      barred = true // or full: it lasts as long as the page
    }
  }

  read()
  return {
    read,
    change,

    /** From now on it is kept elsewhere. */
    move(to: [Box, Box]): void {
      boxes = () => to
      barred = false
      read()
    },

    /** What is remembered. */
    get kept(): Kept {
      return kept
    },

    /** The session began now, unless it did before. */
    begin(now: string): void {
      session ||= now
      try {
        boxes()[1].setItem(name, session)
      } catch {
        // Barred: every page is a session.
      }
    },

    /** Remembers an act on a notice. */
    act(id: string, what: 'closed' | 'clicked' | 'answered' | 'converted' | 'shown', now: string): void {
      change(({ notices }) => {
        const acts = (notices[id] ??= {})
        const counts = (acts.counts ??= {})
        counts[what] = (counts[what] ?? 0) + 1
        if (what === 'shown') acts.shown = [...(acts.shown ?? []), now].slice(-most)
        else acts[what] = now
      })
    },

    /** Remembers when a visitor's own countdown began; true if that is now. */
    meet(id: string, now: string): boolean {
      if (kept.notices[id]?.met) return false
      // Another tab may have met it.
      change(({ notices }) => ((notices[id] ??= {}).met ??= now))
      return kept.notices[id].met === now
    },

    event(name: string, now: string): void {
      change((kept) => {
        const events = (kept.events ??= {})
        events[name] = [...(events[name] ?? []), now].slice(-most)
      })
    },

    /** As a decision is asked with it; view is when this page view began. */
    visit(view: string) {
      const { notices, events, consent, acknowledged, draw } = kept
      return {
        session: session || undefined,
        view: view || undefined,
        noStorage: barred || undefined,
        notices,
        events,
        consent,
        acknowledged,
        draw,
      }
    },
  }
}

export type Memory = ReturnType<typeof remembered>
