// Puts notices on the page: each in a shadow root of its own, in one of four
// holders at the edges (in the page or floating, at the top or at the bottom),
// or where the part for pop-ups puts them.
import { holder } from './reserve'
import type { Bar } from './shapes'
import type { Policy } from './trust'

declare const BASE_CSS: string

/** By which HTML goes into the page. */
let policy: Policy
export const setPolicy = (of: Policy) => (policy = of)

function sheet(css: string): CSSStyleSheet {
  const s = new CSSStyleSheet()
  s.replaceSync(css)
  return s
}

let base: CSSStyleSheet | undefined

/** A shadow root below a new element, with HTML and CSS that a strict Content-Security-Policy lets through. */
export function shadow(html: string, css: string): HTMLElement {
  const host = document.createElement('mastflag-notice')
  const root = host.attachShadow({ mode: 'open' })
  base ??= sheet(BASE_CSS)
  root.adoptedStyleSheets = [base, sheet(css)]
  root.innerHTML = policy.createHTML(html)
  return host
}

const edges = {
  'top scrolling': { name: holder, css: 'display:block' },
  'top sticking': { name: 'mastflag-over', css: 'display:block;position:fixed;inset:0 0 auto;z-index:2147483000' },
  'bottom sticking': { name: 'mastflag-under', css: 'display:block;position:fixed;inset:auto 0 0;z-index:2147483000' },
  'bottom scrolling': { name: 'mastflag-bottom', css: 'display:block' },
}

/** What shows notices elsewhere than at the edges; loaded when one is to. */
export interface Popup {
  /** Elements that hold them, with their style, by slot. */
  places: Record<string, { name: string; css: string }>
  /** Where the parts of a notice are that stands nowhere on the page. */
  rootOf(id: string): ShadowRoot | undefined
  /** The style that they share. */
  css: string
  /** Does what is left to do once all others stand in their places. */
  placed(bars: Bar[], shadow: (html: string, css: string) => HTMLElement, host: (bar: Bar) => HTMLElement): void
}
let popup: Popup | undefined
/** What opens longer messages, folds notices away and leads to other pages; loaded when one can. */
export interface Ways {
  placed(bars: Bar[]): void
  act(bar: Bar, what: string): void
  /** Whether the end of its countdown takes the visitor to another page. */
  leads(bar: Bar): boolean
}
export let ways: Ways | undefined

const atEdge = (b: Bar) => b.slot === 'top' || b.slot === 'bottom'

/** Loads what it takes to show these notices. Where that fails, those elsewhere than at the edges do not show. */
export async function prepare(bars: Bar[], load: <T>(part: string) => Promise<T>, page: object): Promise<void> {
  try {
    if (!popup && !bars.every(atEdge)) popup = (await load<{ start(page: object): Popup }>('popup')).start(page)
    if (!ways && bars.some((b) => b.ways)) ways = (await load<{ start(page: object): Ways }>('ways')).start(page)
  } catch {
    // The others show.
  }
}

/** Where a notice goes, as a key of places; the tab title and the page itself are none. */
const placeOf = (b: Bar) => (atEdge(b) ? `${b.slot} ${b.position}` : b.slot)

const hosts = new Map<string, { host: HTMLElement; html: string; css: string }>()

/** Where a notice's parts are, if it is on the page. */
export const rootOf = (id: string) => hosts.get(id)?.host.shadowRoot ?? popup?.rootOf(id)

/** Whether a notice that is to show found its place. */
export const stands = (id: string) => hosts.get(id)?.host.isConnected !== false

/**
 * Makes exactly these bars stand on the page, in their order; what is there already stays untouched. Returns the height
 * of the bars in the page at its top, px.
 */
export function place(bars: Bar[], act: (bar: Bar, what: string) => void): number {
  const first = hosts.size === 0
  const hostOf = (bar: Bar): HTMLElement => {
    let have = hosts.get(bar.id)
    if (!have || have.html !== bar.html || have.css !== bar.css) {
      have?.host.remove()
      const own = atEdge(bar) || bar.slot === 'inline' ? '' : popup?.css
      have = { host: shadow(bar.html, own + bar.css), html: bar.html, css: bar.css }
      have.host.dataset.id = bar.id
      hosts.set(bar.id, have)
      listen(have.host, bar, act)
    }
    return have.host
  }
  const wanted = new Set(bars.map((b) => b.id))
  for (const [id, have] of hosts) {
    if (!wanted.has(id)) {
      have.host.remove()
      hosts.delete(id)
    }
  }
  for (const [where, { name, css }] of Object.entries({ ...edges, ...popup?.places })) {
    let box = document.querySelector<HTMLElement>(name)
    const here = bars.filter((b) => placeOf(b) === where)
    if (!here.length) {
      box?.remove()
      continue
    }
    if (!box) {
      box = document.createElement(name)
      const body = document.body
      if (where.startsWith('top')) body.before(box)
      else body.after(box)
    }
    box.style.cssText = css
    // What comes later is said to a screen reader; what was there from the start is simply read.
    if (!first) box.setAttribute('aria-live', 'polite')
    here.forEach((bar, i) => {
      const host = hostOf(bar)
      if (box.children[i] !== host) box.insertBefore(host, box.children[i] ?? null)
    })
  }
  ways?.placed(bars)
  // Neither what gets the focus (WCAG 2.2 §2.4.11) nor a bar in the page may lie under a floating bar.
  const page = document.documentElement.style
  page.scrollPaddingTop = height('mastflag-over')
  page.scrollPaddingBottom = height('mastflag-under')
  popup?.placed(bars, shadow, hostOf)
  const top = document.querySelector<HTMLElement>(holder)
  if (top) top.style.paddingTop = page.scrollPaddingTop
  const bottom = document.querySelector<HTMLElement>('mastflag-bottom')
  if (bottom) bottom.style.paddingBottom = page.scrollPaddingBottom
  return top?.getBoundingClientRect().height ?? 0
}

function height(name: string): string {
  const box = document.querySelector(name)
  return box ? `${box.getBoundingClientRect().height}px` : ''
}

function listen(host: HTMLElement, bar: Bar, act: (bar: Bar, what: string) => void): void {
  const root = host.shadowRoot as ShadowRoot
  root.addEventListener('click', (e) => {
    const target = (e.target as Element).closest<HTMLElement>('[data-act],a')
    const what = target?.dataset.act ?? 'clicked'
    if (!target) return
    ways?.act(bar, what)
    act(bar, what)
  })
  root.addEventListener('keydown', (e) => {
    if ((e as KeyboardEvent).key === 'Escape')
      root.querySelector<HTMLElement>('[data-act=close],[data-act=fold]')?.click()
  })
}
