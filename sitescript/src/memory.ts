// What this visitor did on the site, in their own browser on the site's own
// origin, as far as the site's notices ask about it. Where storage is barred
// it lasts as long as the page.

interface Acts {
  closed?: string
  clicked?: string
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
}

/** A visit ends when nothing was seen for so long, ms: common practice. */
const pause = 30 * 60_000
const most = 100

export class Memory {
  private kept: Kept = { notices: {} }
  private session = ''
  private readonly name: string

  constructor(key: string) {
    this.name = `mastflag.${key}`
    this.read()
  }

  private read(): void {
    try {
      const kept = JSON.parse(localStorage.getItem(this.name) ?? 'null') as Kept | null
      if (kept?.notices) this.kept = kept
    } catch {
      // Barred, or not what was written: what is known stays.
    }
  }

  /** Changes what is kept. Another tab may have written meanwhile. */
  private change(how: (kept: Kept) => void): void {
    this.read()
    how(this.kept)
    try {
      localStorage.setItem(this.name, JSON.stringify(this.kept))
    } catch {
      // Barred or full: it lasts as long as the page.
    }
  }

  /** The session began now, unless it did before. */
  begin(now: string): void {
    this.session ||= now
    try {
      this.session = sessionStorage.getItem(this.name) ?? this.session
      sessionStorage.setItem(this.name, this.session)
    } catch {
      // Barred: every page is a session.
    }
  }

  /** Remembers an act on a notice: closed, clicked or shown. */
  act(id: string, what: 'closed' | 'clicked' | 'shown', now: string): void {
    this.change(({ notices }) => {
      const acts = (notices[id] ??= {})
      const counts = (acts.counts ??= {})
      counts[what] = (counts[what] ?? 0) + 1
      if (what === 'shown') acts.shown = [...(acts.shown ?? []), now].slice(-most)
      else acts[what] = now
    })
  }

  /** Remembers when a visitor's own countdown began; true if that is now. */
  meet(id: string, now: string): boolean {
    if (this.kept.notices[id]?.met) return false
    // Another tab may have met it.
    this.change(({ notices }) => ((notices[id] ??= {}).met ??= now))
    return this.kept.notices[id].met === now
  }

  /** Whether a countdown may take the visitor elsewhere: once in a session, and only where that is remembered. */
  go(id: string, now: string): boolean {
    const gone = this.kept.notices[id]?.gone
    if (gone && gone >= this.session) return false
    this.change(({ notices }) => ((notices[id] ??= {}).gone = now))
    this.kept = { notices: {} }
    this.read()
    return this.kept.notices[id]?.gone === now
  }

  event(name: string, now: string): void {
    this.change((kept) => {
      const events = (kept.events ??= {})
      events[name] = [...(events[name] ?? []), now].slice(-most)
    })
  }

  /** A page of the site is seen. */
  see(path: string): void {
    this.change((kept) => {
      const now = Date.now()
      const v = (kept.visits ??= {
        number: 0,
        first: now,
        last: 0,
        before: 0,
        pages: 0,
        total: 0,
        landing: path,
        seconds: 0,
        spent: 0,
        seen: [],
      })
      if (now - v.last > pause) Object.assign(v, { number: v.number + 1, before: v.last, pages: 0, spent: 0, landing: path })
      v.last = now
      v.pages++
      v.total++
    })
  }

  /** The page is left after so many seconds. */
  leave(path: string, seconds: number): void {
    this.change(({ visits: v }) => {
      if (!v) return
      v.last = Date.now()
      v.seconds += Math.round(seconds)
      v.spent += Math.round(seconds)
      if (!v.seen.includes(path)) v.seen = [...v.seen, path].slice(-most)
    })
  }

  /** Seconds on the site on this visit before this page view. */
  spent(): number {
    return this.kept.visits?.spent ?? 0
  }

  /** A fact about visits. */
  fact(name: string): unknown {
    const v = this.kept.visits
    if (!v) return undefined
    const days = (t: number) => (t ? Math.round((midnight(Date.now()) - midnight(t)) / 86_400_000) : undefined)
    const all: Record<string, unknown> = { ...v, daysSinceFirst: days(v.first), daysSinceLast: days(v.before), pagesTotal: v.total }
    return all[name]
  }

  /** As a decision is asked with it; view is when this page view began. */
  visit(view: string): object {
    return { session: this.session || undefined, view: view || undefined, notices: this.kept.notices, events: this.kept.events }
  }
}

/** The start of the day of t on the visitor's calendar. */
function midnight(t: number): number {
  return new Date(t).setHours(0, 0, 0, 0)
}
