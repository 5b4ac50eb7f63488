// Where in the page a notice stands.
import type { Bar } from './shapes'

type Spot = NonNullable<Bar['spots']>[number]

/** The first element that a selector finds, but for those inside a notice; nothing where it cannot be read. */
export function find(selector: string): HTMLElement | undefined {
  try {
    return [...document.querySelectorAll<HTMLElement>(selector)].find(
      (e) => !e.closest('div[data-mastflag],mastflag-notice'),
    )
  } catch {
    return
  }
}

/** The first of a notice's spots that is there; at says which of them are for this page, all if absent. */
export const firstSpot = ({ spots = [], at }: { spots?: Spot[]; at?: number[] }): Spot | undefined =>
  (at ?? [...spots.keys()]).map((i) => spots[i]!).find((s) => find(s.selector))
