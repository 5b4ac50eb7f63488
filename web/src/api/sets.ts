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

/** Whether a slot is an edge of the window, across it. */
export const slots: Record<Slot, { edge: boolean }> = {
  top: { edge: true },
  bottom: { edge: true },
  'corner-start': { edge: false },
  'corner-end': { edge: false },
  centre: { edge: false },
  cover: { edge: false },
  title: { edge: false },
  inline: { edge: false },
  code: { edge: false },
}

/** How much a notice matters. */
export const levelOf = (n: Pick<Notice, 'level'>) => n.level ?? 'information'
/** Where a notice stands. */
export const slotOf = (n: Pick<Notice, 'kind' | 'slot'>) => n.slot ?? kinds[n.kind].slot
/** What a notice does when the page scrolls. */
export const positionOf = (n: Pick<Notice, 'kind' | 'position'>) => n.position ?? kinds[n.kind].position
