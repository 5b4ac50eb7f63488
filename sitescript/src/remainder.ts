// What is left of an audience at load (rule A5), and how it comes true as the
// visitor scrolls, waits, pauses, heads for the way out or clicks.
import type { components } from '../../web/src/api/schema'

/** A part of a remainder: one group, or one fact under test. */
export type Node = components['schemas']['Node']

/** What has become known on this page view, by fact; what has not is at its least. */
export type Known = Record<string, number | string[]>

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

/** Calls visit for every leaf. */
export function leaves(n: Node, visit: (leaf: Node) => void): void {
  const parts = n.all ?? n.any ?? n.none
  if (parts) parts.forEach((p) => leaves(p, visit))
  else visit(n)
}

/** Watches what the visitor does on this page view; changed is called whenever something has grown. */
export class Watch {
  known: Known = {}
  private began = 0
  private active = 0
  private on = new Set<string>()
  private readonly selectors = new Set<string>()

  /** spentBefore is how long this visit was on the site before this page view, s. */
  constructor(
    private readonly spentBefore: () => number,
    private readonly changed: () => void,
  ) {
    this.restart()
  }

  /** A new page view begins. */
  restart(): void {
    this.known = {}
    this.began = this.active = Date.now()
  }

  /** Seconds on this page view. */
  seconds(): number {
    return (Date.now() - this.began) / 1000
  }

  /** Begins to watch what a remainder asks about. */
  add(remainder: Node): void {
    leaves(remainder, (l) => {
      if (l.fact === 'view.clicked') for (const s of ([] as unknown[]).concat(l.value)) this.selectors.add(String(s))
      this.start(l.fact as string)
    })
  }

  private start(fact: string): void {
    if (this.on.has(fact)) return
    this.on.add(fact)
    const passive = { passive: true, capture: true }
    switch (fact) {
      case 'view.scroll': {
        const look = () => {
          const page = document.documentElement
          const rest = page.scrollHeight - innerHeight
          this.grow(fact, rest > 0 ? Math.min(100, (100 * scrollY) / rest) : 100)
        }
        addEventListener('scroll', look, passive)
        addEventListener('resize', look, passive)
        look()
        break
      }
      case 'view.leaving':
        document.addEventListener('mouseout', (e) => !e.relatedTarget && e.clientY <= 0 && this.grow(fact, 1))
        document.addEventListener('visibilitychange', () => document.hidden && this.grow(fact, 1))
        break
      case 'view.clicked':
        addEventListener('click', (e) => this.click(e.target as Element), passive)
        break
      case 'view.idle':
        for (const type of ['pointermove', 'pointerdown', 'keydown', 'scroll', 'touchstart'])
          addEventListener(type, () => (this.active = Date.now()), passive)
      // falls through: it grows with time
      default:
        if (!this.on.has('tick')) setInterval(() => this.tick(), 500)
        this.on.add('tick')
        this.tick()
    }
  }

  private tick(): void {
    if (document.hidden) return
    this.grow('view.seconds', this.seconds())
    this.grow('site.seconds', this.spentBefore() + this.seconds())
    if (this.on.has('view.idle')) this.grow('view.idle', (Date.now() - this.active) / 1000)
  }

  private grow(fact: string, to: number): void {
    if (to <= ((this.known[fact] as number) ?? 0)) return
    this.known[fact] = to
    this.changed()
  }

  private click(target: Element): void {
    const clicked = (this.known['view.clicked'] ??= []) as string[]
    for (const s of this.selectors) {
      try {
        if (!clicked.includes(s) && target.closest(s)) clicked.push(s)
      } catch {
        // Not a selector: nothing ever matches it.
      }
    }
    this.changed()
  }
}
