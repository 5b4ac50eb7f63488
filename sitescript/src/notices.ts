// Which notices show: as the server takeDecision, and what no longer waits.
import { isReady } from './answering'
import type { Answer, Bar, Waiting } from './shapes'
import { holds } from './waits'

let shown: Bar[] = []
let waiting: Waiting[] = []
let capacity: Record<string, number> = {}
/** The asking after which each notice was taken off: an answer to it, or to one before, still carries it. */
const dropped: Record<string, number> = {}

/** Takes what was answered to the asking with that number. */
export function takeDecision(answer: Answer, asking: number): void {
  const stays = (b: Bar) => !(dropped[b.id]! >= asking)
  shown = answer.show.filter(stays)
  waiting = (answer.waiting ?? []).filter(stays)
  capacity = answer.capacity ?? {}
}

/** Takes a notice off this page view, though answers up to the asking with that number still carry it. */
export function takeOff({ id }: Bar, asking: number): void {
  dropped[id] = asking
  const stays = (b: Bar) => b.id !== id
  shown = shown.filter(stays)
  waiting = waiting.filter(stays)
}

const slotOf = (b: Bar) => (b.slot === 'cover' ? 'centre' : b.slot)

/** What shows, in the order of rank, as far as there is room; standing are the ids of what stands on the page now. */
export function showing(standing: string[]): Bar[] {
  const met = waiting.filter((w) => holds(w.remainder))
  if (!met.length) return shown.filter(isReady)
  const taken: Record<string, number> = {}
  // What is open in the middle is not replaced: the other waits (rule D3).
  const open = (b: Bar) => slotOf(b) === 'centre' && standing.includes(b.id)
  return [...shown, ...met]
    .sort((a, b) => +open(b) - +open(a) || a.order - b.order)
    .filter((b) => {
      const slot = slotOf(b)
      return (taken[slot] = (taken[slot] ?? 0) + 1) <= (capacity[slot] ?? Infinity)
    })
    .filter(isReady)
}
