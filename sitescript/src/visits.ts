// Counts visits to the site, their pages and their seconds, in the visitor's own
// browser. Loaded only where a site's audiences ask about them.
import type { Memory } from './memory'

/** A visit ends when nothing was seen for so long, ms: common practice. */
const pause = 30 * 60_000
/** So many paths are kept. */
const most = 100

export interface Visits {
  /** A page of the site is seen; again and again, until it is left. */
  see(path: string): void
  /** It is left. */
  leave(): void
  /** Seconds on the site on this visit before this page view. */
  spent(): number
  /** A fact about visits, by the name behind `visits.`. */
  fact(name: string): unknown
}

/** `seconds` are those on this page view. */
export function start(memory: Memory, seconds: () => number): Visits {
  let seen = ''
  const leave = () => {
    if (!seen) return
    memory.change(({ visits: v }) => {
      if (!v) return
      v.last = Date.now()
      v.seconds += Math.round(seconds())
      v.spent += Math.round(seconds())
      if (!v.seen.includes(seen)) v.seen = [...v.seen, seen].slice(-most)
    })
  }
  addEventListener('pagehide', leave)
  return {
    leave,
    see(path) {
      if (seen === path) return
      seen = path
      memory.change((kept) => {
        const now = Date.now()
        const none = {
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
        }
        const v = (kept.visits ??= none)
        if (now - v.last > pause)
          Object.assign(v, { number: v.number + 1, before: v.last, pages: 0, spent: 0, landing: path })
        v.last = now
        v.pages++
        v.total++
      })
    },
    spent: () => memory.kept.visits?.spent ?? 0,
    fact(name) {
      const v = memory.kept.visits
      if (!v) return undefined
      const days = (t: number) => (t ? Math.round((midnight(Date.now()) - midnight(t)) / 86_400_000) : undefined)
      return { ...v, daysSinceFirst: days(v.first), daysSinceLast: days(v.before), pagesTotal: v.total }[name]
    },
  }
}

/** The start of the day of t on the visitor's calendar. */
function midnight(t: number): number {
  return new Date(t).setHours(0, 0, 0, 0)
}
