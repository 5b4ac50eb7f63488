// Notices elsewhere than at the edges: in a corner, in the middle, over
// everything, in the tab title. Loaded when a decision has one.
import type { Bar, Popup } from './place'

declare const CARD_CSS: string

const floats =
  'display:block;position:fixed;bottom:16px;z-index:2147482999;width:min(360px,calc(100vw - 32px));box-shadow:0 4px 24px #0006;'
const middles = 'display:flex;align-items:center;justify-content:center;position:fixed;inset:0;z-index:2147483001;padding:16px;background:'

/** What had the focus before something stood in the middle, and what stands there. */
let focused: HTMLElement | null = null
let middle: Element | null = null

/** Something in the middle or over everything takes the focus, and the page behind it is out of reach (WAI-ARIA APG, modal dialog). */
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
    root?.querySelector<HTMLElement>('a,button')?.focus()
  } else focused?.focus()
}

let title: string | undefined

/** Puts a notice's words into the tab title, or the page's own back. */
function tabTitle(bar: Bar | undefined, shadow: (html: string, css: string) => HTMLElement): void {
  if (bar) {
    title ??= document.title
    const words = shadow(bar.html, bar.css).shadowRoot?.querySelector('.words')
    document.title = words?.textContent?.trim() || title
  } else if (title !== undefined) {
    document.title = title
    title = undefined
  }
}

export const popup: Popup = {
  places: {
    'corner-start': { name: 'mastflag-corner-start', css: floats + 'inset-inline-start:16px' },
    'corner-end': { name: 'mastflag-corner-end', css: floats + 'inset-inline-end:16px' },
    centre: { name: 'mastflag-centre', css: middles + '#0009' },
    cover: { name: 'mastflag-cover', css: middles + '#000d' },
  },
  css: CARD_CSS,
  placed(bars, shadow) {
    modal(document.querySelector('mastflag-centre,mastflag-cover'))
    tabTitle(
      bars.find((b) => b.slot === 'title'),
      shadow,
    )
  },
}
