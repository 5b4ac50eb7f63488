// The countdowns of what stands on the page: what they say each second, and what follows when one runs out.
import { clock, now, wasSet } from './clock'
import { write } from './countdown'
import type { Memory } from './memory'
import { parts, rootOf } from './place'
import type { Bar } from './shapes'

/** When they run out, ms since 1970 by the server's clock; which have run out, at which moment. */
let ends: Record<string, number> = {}
const over: Record<string, number> = {}
/** How often the server was asked again for the next of many moments; it is so often at most, a second apart. */
const mostRepeats = 3
const repeats: Record<string, number> = {}
/** Which were seen running on this page view. */
const running = new Set<string>()
let beat = 0

export const setEnds = (of: Record<string, number> = {}): void => void (ends = of)
/** A new page view begins. */
export const restartCountdowns = (): void => running.clear()

interface Page {
  memory: Memory
  showing(): Bar[]
  quiet(): unknown
  /** Takes a notice off this page view. */
  drop(bar: Bar): void
  ask(): unknown
}

/** Brings what counts up to date, now and when a second is over. */
export function tick(page: Page): void {
  clearTimeout(beat)
  const at = clock()
  let next = 0
  for (const b of page.showing()) {
    const root = b.count && rootOf(b.id)
    if (!root) continue
    // A visitor's own begins when it is first seen.
    if (b.count!.kind === 'visitor' && !page.quiet() && page.memory.meet(b.id, now()))
      ends[b.id] = at + b.count!.period!
    const left = (ends[b.id] ?? Infinity) - at
    write(root, b.count!, left, at)
    // What it says before the end, and after.
    const [till, after] = root.querySelectorAll<HTMLElement>('.till,.after')
    if (after) after.hidden = !(till!.hidden = left <= 0)
    next = Math.min(next || 1e3, (((left % 1e3) + 1e3) % 1e3 || 999) + 1)
    if (left > 0) running.add(b.id)
    else if (b.count!.kind !== 'since') runOut(b, page)
  }
  if (!next) return
  beat = setTimeout(tick, next, page)
  if (wasSet()) page.ask()
}

/** One has run out: does what is to follow (rule C4), once for each moment. */
function runOut(b: Bar, page: Page): void {
  const { then, kind, period } = b.count!
  const leaves = kind !== 'repeating' && (then === 'disappear' || then === 'hand-over')
  if (page.quiet()) return
  if (over[b.id] === ends[b.id]) {
    // It has run out here. By the server's own clock, which is not known exactly, it may still be a moment before.
    if (leaves) page.drop(b)
    else if (kind === 'repeating' && running.has(b.id) && repeats[b.id]!++ < mostRepeats) page.ask()
    return
  }
  over[b.id] = ends[b.id]!
  repeats[b.id] = 0
  if (running.has(b.id) && parts.ways?.leads(b)) return
  if (then === 'again') {
    ends[b.id]! += period!
    return tick(page)
  }
  if (leaves) page.drop(b)
  // What leaves makes room; after one of many moments the server knows the next.
  if (leaves || kind === 'repeating') page.ask()
}
