// What waits for something to come true on this page view. What watches for it is loaded where something waits.
import { spentBefore } from './facts'
import { load } from './program'
import type { Node, Watch } from './remainder'
import { viewSince } from './view'

let watch: Watch | undefined

/** Begins to watch for what these remainders ask about. What cannot be loaded never comes true. */
export async function watchFor(remainders: Node[], changed: () => void): Promise<void> {
  if (!remainders.length) return
  try {
    watch ??= (await load<typeof import('./remainder')>('remainder')).watching(viewSince, spentBefore, changed)
  } catch {
    return
  }
  for (const r of remainders) watch.add(r)
}

/** Whether a remainder holds by now. */
export const holds = (remainder: Node): boolean => !!watch?.holds(remainder)

/** A new page view begins. */
export const restartWatch = (): void => watch?.restart()
