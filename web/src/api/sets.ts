// What the interface has of the program’s tables. Written by `make generate`.
import type { Notice } from './client'

type Kind = Notice['kind']
type Slot = NonNullable<Notice['slot']>
type Position = NonNullable<Notice['position']>

/** Where notices of a kind stand if they do not say it themselves. */
export const kinds: Record<Kind, { slot: Slot; position: Position }> = {
  bar: { slot: 'top', position: 'scrolling' },
  alert: { slot: 'top', position: 'scrolling' },
  countdown: { slot: 'top', position: 'scrolling' },
  consent: { slot: 'bottom', position: 'sticking' },
  disclaimer: { slot: 'top', position: 'scrolling' },
  block: { slot: 'inline', position: 'scrolling' },
  code: { slot: 'code', position: 'scrolling' },
  'pop-up': { slot: 'centre', position: 'scrolling' },
  'tab-title': { slot: 'title', position: 'scrolling' },
}

/** How many notices a slot holds if the site says nothing else, 0 for any number; where it lies. */
export const slots: Record<Slot, { capacity: number; edge: boolean; over: boolean }> = {
  top: { capacity: 2, edge: true, over: false },
  bottom: { capacity: 1, edge: true, over: false },
  'corner-start': { capacity: 1, edge: false, over: false },
  'corner-end': { capacity: 1, edge: false, over: false },
  centre: { capacity: 1, edge: false, over: true },
  cover: { capacity: 1, edge: false, over: true },
  title: { capacity: 1, edge: false, over: false },
  inline: { capacity: 0, edge: false, over: false },
  code: { capacity: 0, edge: false, over: false },
}

/** How much a notice matters. */
export const levelOf = (n: Pick<Notice, 'level'>) => n.level ?? 'information'
/** Where a notice stands. */
export const slotOf = (n: Pick<Notice, 'kind' | 'slot'>) => n.slot ?? kinds[n.kind].slot
/** What a notice does when the page scrolls. */
export const positionOf = (n: Pick<Notice, 'kind' | 'position'>) => n.position ?? kinds[n.kind].position
