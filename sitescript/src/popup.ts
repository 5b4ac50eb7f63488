// Notices over the page: in a corner, in the middle, over everything. Loaded when a decision has one.
import type { Popup } from './place'

declare const CARD_CSS: string

const floats = 'position:fixed;bottom:16px;z-index:2147482999;width:min(360px,calc(100vw - 32px));'
const middles =
  'display:flex;align-items:center;justify-content:center;position:fixed;inset:0;z-index:2147483001;padding:16px;' +
  'background:'

/** What had the focus before something stood in the middle, and what stands there. */
let focused: HTMLElement | null = null
let middle: Element | null = null
/** A page in a frame, as a draft is shown in, takes the focus from nothing outside that frame. */
const mayFocus = () => parent === window || document.hasFocus()

/**
 * Something in the middle or over everything takes the focus, to its first field if it has one, and the page behind
 * it is out of reach (WAI-ARIA APG, modal dialog).
 */
function modal(box: HTMLElement | null): void {
  const host = box?.firstElementChild ?? null
  if (host === middle) return
  if (!middle) focused = document.activeElement as HTMLElement | null
  middle = host
  for (const e of document.documentElement.children as HTMLCollectionOf<HTMLElement>) e.inert = !!host && e !== box
  if (box && host) {
    const root = host.shadowRoot
    box.setAttribute('role', 'dialog')
    box.setAttribute('aria-modal', 'true')
    box.setAttribute('aria-label', root?.querySelector('[aria-label]')?.getAttribute('aria-label') ?? '')
    const first = root?.querySelector<HTMLElement>('.field [name]') ?? root?.querySelector<HTMLElement>('a,button')
    if (mayFocus()) first?.focus()
  } else if (mayFocus()) focused?.focus()
}

/**
 * Cards stand above what floats at the bottom; where the window is too narrow for two corners side by side, one stands
 * on the other.
 */
function stack(): void {
  const [start, end] = ['start', 'end'].map((c) => document.querySelector<HTMLElement>(`mastflag-corner-${c}`))
  const bottom = (above: number) => `calc(var(--mastflag-under,0px) + ${above}px)`
  for (const card of [start, end]) if (card) card.style.bottom = bottom(16)
  if (start && end && innerWidth < 752) end.style.bottom = bottom(start.offsetHeight + 24)
}
const corners = new ResizeObserver(stack)
corners.observe(document.documentElement)

export const start = (): Popup => ({
  places: {
    'corner-start': { name: 'mastflag-corner-start', css: floats + 'inset-inline-start:16px' },
    'corner-end': { name: 'mastflag-corner-end', css: floats + 'inset-inline-end:16px' },
    centre: { name: 'mastflag-centre', css: middles + '#0009' },
    cover: { name: 'mastflag-cover', css: middles + '#000d' },
  },
  css: CARD_CSS,
  placed() {
    const start = document.querySelector('mastflag-corner-start')
    if (start) corners.observe(start)
    stack()
    modal(
      [...document.querySelectorAll<HTMLElement>('mastflag-centre,mastflag-cover')].find(
        (e) => e.style.display !== 'none',
      ) ?? null,
    )
  },
})
