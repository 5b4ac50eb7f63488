// What is left of an audience at load (rule A5), and how it comes true as the
// visitor scrolls, waits, pauses, heads for the way out or clicks.
import type { components } from '../../web/src/api/schema'

/** A part of a remainder: one group, or one fact under test. */
export type Node = components['schemas']['Node']

/** What has become known on this page view, by fact; what has not is at its least. */
export type Known = Record<string, number | string[]>

/** How often the page is looked at, ms. */
const every = 500
/** After so many looks since it loaded a page counts as drawn, though it grows or does not scroll. */
const mostLooks = 5

/** Whether the remainder holds. */
export function holds(n: Node, known: Known): boolean {
  if (n.all) return n.all.every((m) => holds(m, known))
  if (n.any) return n.any.some((m) => holds(m, known))
  if (n.none) return !n.none.some((m) => holds(m, known))
  const have = known[n.fact as string] ?? (n.fact === 'view.clicked' ? [] : 0)
  // What can become known on this page view is always set (rule A5).
  if (n.is === 'set') return true
  if (Array.isArray(have)) {
    const found = ([] as unknown[]).concat(n.value).some((v) => have.includes(v as string))
    return n.is === 'has-none' ? !found : n.is !== 'unset' && found
  }
  const [a, b] = ([] as unknown[]).concat(n.value).map(Number)
  return !!{
    eq: have === a,
    ne: have !== a,
    gte: have >= a,
    lte: have <= a,
    gt: have > a,
    lt: have < a,
    between: have >= a && have <= b,
  }[n.is as string]
}

/**
 * How far the page is scrolled, %. Where the page does not scroll, it is of the part that does and takes most of the
 * window's height; 100 where nothing scrolls.
 */
function scrolled(): number {
  const page = document.documentElement
  const { scrollHeight, clientHeight } = page
  const part =
    scrollHeight <= clientHeight + 1 &&
    document
      .elementsFromPoint(innerWidth / 2, innerHeight / 2)
      .find(
        (e) =>
          e.scrollHeight > e.clientHeight + 1 &&
          e.clientHeight > innerHeight / 2 &&
          /auto|scroll/.test(getComputedStyle(e).overflowY),
      )
  const at = part || page
  const rest = at.scrollHeight - at.clientHeight
  return rest > 1 ? Math.min(100, (100 * (part ? part.scrollTop : scrollY)) / rest) : 100
}

/** Calls visit for every leaf. */
export function leaves(n: Node, visit: (leaf: Node) => void): void {
  const parts = n.all ?? n.any ?? n.none
  if (parts) parts.forEach((p) => leaves(p, visit))
  else visit(n)
}

/** Watches what the visitor does on this page view. */
export interface Watch {
  /** Begins to watch what a remainder asks about. */
  add(remainder: Node): void
  /** Whether a remainder holds by now. */
  holds(remainder: Node): boolean
  /** A new page view begins. */
  restart(): void
}

/**
 * Watches; changed is called whenever something has grown. since is when this page view began, ms since 1970;
 * spentBefore how long this visit was on the site before it, s.
 */
export function watching(since: () => number, spentBefore: () => number, changed: () => void): Watch {
  let known: Known = {}
  let active = Date.now()
  const on = new Set<string>()
  const selectors = new Set<string>()
  /** How high the page was when it was last looked at, px; how often it was since it loaded; whether it is drawn. */
  let height = -1
  let looks = 0
  let isDrawn = false
  let ticking: ReturnType<typeof setInterval> | undefined

  /** Measures how far the page is scrolled, once it is drawn: an app may draw itself late. */
  const measure = () => isDrawn && grow('view.scroll', scrolled())

  function start(fact: string): void {
    if (on.has(fact)) return
    on.add(fact)
    const passive = { passive: true, capture: true }
    switch (fact) {
      case 'view.scroll': {
        addEventListener('scroll', measure, passive) // of its parts, too
        addEventListener('resize', measure, passive)
        watchTime()
        break
      }
      case 'view.leaving':
        document.addEventListener('mouseout', (e) => !e.relatedTarget && e.clientY <= 0 && grow(fact, 1))
        document.addEventListener('visibilitychange', () => document.hidden && grow(fact, 1))
        break
      case 'view.clicked':
        addEventListener('click', (e) => click(e.target as Element), passive)
        break
      case 'view.idle':
        for (const type of ['pointermove', 'pointerdown', 'keydown', 'scroll', 'touchstart'])
          addEventListener(type, () => (active = Date.now()), passive)
      // falls through: it grows with time
      default:
        watchTime()
    }
  }

  function watchTime(): void {
    ticking ||= setInterval(tick, every)
    tick()
  }

  function tick(): void {
    if (document.hidden) return
    if (on.has('view.scroll')) {
      const { scrollHeight, clientHeight } = document.documentElement
      // Where nothing scrolls an app may still be about to draw itself.
      const isSame = scrollHeight === height && height > clientHeight + 1
      isDrawn ||= document.readyState === 'complete' && (isSame || looks++ > mostLooks)
      height = scrollHeight
      measure()
    }
    const seconds = (Date.now() - since()) / 1000
    grow('view.seconds', seconds)
    grow('site.seconds', spentBefore() + seconds)
    if (on.has('view.idle')) grow('view.idle', (Date.now() - active) / 1000)
  }

  function grow(fact: string, to: number): void {
    if (to <= ((known[fact] as number) ?? 0)) return
    known[fact] = to
    changed()
  }

  function click(target: Element): void {
    const clicked = (known['view.clicked'] ??= []) as string[]
    for (const s of selectors) {
      try {
        if (!clicked.includes(s) && target.closest(s)) clicked.push(s)
      } catch {
        // Not a selector: nothing ever matches it.
      }
    }
    changed()
  }

  return {
    restart() {
      known = {}
      active = Date.now()
      isDrawn = false
      looks = 0
    },
    holds: (remainder) => holds(remainder, known),
    add(remainder) {
      leaves(remainder, (l) => {
        if (l.fact === 'view.clicked') for (const s of ([] as unknown[]).concat(l.value)) selectors.add(String(s))
        start(l.fact as string)
      })
    },
  }
}
