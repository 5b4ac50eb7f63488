// Puts notices on the page: each in a shadow root of its own, in one of four
// holders at the edges (in the page or floating, at the top or at the bottom),
// or where the parts for pop-ups and for the page itself put them. Holders stand
// beside the body, which is the site's, and leave no mark on anything of the site's.
import type { Bars, Edges } from './edges'
import { setStyle } from './reserve'
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
/** A document of HTML that nobody sees: pages of XHTML would read HTML as XML. */
let inert: Document | undefined

/** A shadow root below a new element, with HTML and CSS that a strict Content-Security-Policy lets through. */
export function shadow(html: string, css: string): HTMLElement {
  inert ??= document.implementation.createHTMLDocument()
  const host = inert.createElement('mastflag-notice')
  const root = host.attachShadow({ mode: 'open' })
  root.innerHTML = policy.createHTML(html)
  document.adoptNode(host)
  base ??= sheet(BASE_CSS)
  root.adoptedStyleSheets = [base, sheet(css)]
  return host
}

const edges = {
  'top scrolling': { name: 'mastflag-top', css: '' },
  'top sticking': { name: 'mastflag-over', css: 'position:fixed;inset:0 0 auto;z-index:2147483000' },
  'bottom sticking': { name: 'mastflag-under', css: 'position:fixed;inset:auto 0 0;z-index:2147483000' },
  'bottom scrolling': { name: 'mastflag-bottom', css: '' },
}

/** What shows notices over the page; loaded when one is to. */
export interface Popup {
  /** Elements that hold them, with their style, by slot. */
  places: Record<string, { name: string; css: string }>
  /** The style that they share. */
  css: string
  /** Does what is left to do once all stand in their places. */
  placed(): void
}
/** What puts notices into the page itself; loaded when one is to be there. */
export interface InPage {
  /** Where the parts of a notice are that stands nowhere on the page. */
  rootOf(id: string): ShadowRoot | undefined
  /** Whether all stands as it was last asked for: what is in the page waits until that is at rest. */
  isSettled(): boolean
  placed(bars: Bar[], hostOf: (bar: Bar) => HTMLElement): void
}
/** What opens longer messages, folds notices away and leads to other pages; loaded when one can. */
export interface Ways {
  placed(bars: Bar[]): void
  act(bar: Bar, what: string): void
  /** Whether the end of its countdown takes the visitor to another page. */
  leads(bar: Bar): boolean
}
/** The parts of the script that are loaded. */
export const parts: { edges?: Edges; inpage?: InPage; popup?: Popup; ways?: Ways } = {}

const atEdge = (b: Bar) => b.slot === 'top' || b.slot === 'bottom'
const isInPage = (b: Bar) => /^(inline|code|title)$/.test(b.slot)

/** Loads what it takes to show these notices. What cannot be loaded does not show, and the others do. */
export async function prepare(bars: Bar[], load: <T>(part: string) => Promise<T>, page: object): Promise<void> {
  const needed = new Set<keyof typeof parts>()
  for (const b of bars) {
    needed.add(atEdge(b) ? 'edges' : isInPage(b) ? 'inpage' : 'popup')
    if (b.ways) needed.add('ways')
  }
  await Promise.all(
    [...needed].map((name) =>
      parts[name]
        ? 0
        : load<{ start(page: object): never }>(name).then(
            (m) => (parts[name] = m.start(page)),
            () => {},
          ),
    ),
  )
}

/** An element of the site's cannot be moved away from the top: bars for the top stand at the bottom. */
let topIsBlocked = false

/** Whether a notice is for the top of the page and stands at the bottom. */
export const isMovedDown = (b: Bar) => topIsBlocked && b.slot === 'top'

/** Where a notice goes, as a key of places; the tab title and the page itself are none. */
const placeOf = (b: Bar) => (!atEdge(b) ? b.slot : isMovedDown(b) ? 'bottom sticking' : `${b.slot} ${b.position}`)

const hosts = new Map<string, { host: HTMLElement; html: string; css: string }>()

/** Where a notice's parts are, if it is on the page. */
export const rootOf = (id: string) => hosts.get(id)?.host.shadowRoot ?? parts.inpage?.rootOf(id)

/** Whether all that is to stand on the page has been put there, as far as it finds its place. */
export const isSettled = () => parts.inpage?.isSettled() ?? true

/** Whether a notice that is to show found its place. */
export const stands = (id: string) => hosts.get(id)?.host.isConnected !== false

/** The holders on the page, by name; and all that stands beside the body, holders among it. */
const boxes = new Map<string, HTMLElement>()
const attached = new Set<HTMLElement>()
/** How often what the page takes out is put back. */
let patience = 100

/** Puts an element beside the body, where it stays until it is detached. */
export function attach(e: HTMLElement): void {
  const { body, documentElement: page } = document
  attached.add(e)
  page.insertBefore(e, /-(top|over)$/.test(e.localName) ? body : (body?.nextSibling ?? null))
  for (const at of [document, page]) guard.observe(at, { childList: true })
}
export function detach(e?: HTMLElement): void {
  attached.delete(e!)
  e?.remove()
}

// A framework that draws the document anew takes out whatever else is there: it comes back.
const guard = new MutationObserver(() => {
  for (const e of attached) if (!e.isConnected && document.documentElement && patience-- > 0) attach(e)
})

/** How high the bars at the edges are. */
const heights = () =>
  ['over', 'top', 'bottom', 'under'].map(
    (name) => boxes.get(`mastflag-${name}`)?.getBoundingClientRect().height ?? 0,
  ) as Bars

const sizes = new ResizeObserver(() => parts.edges?.fit(heights))

/** Makes exactly these bars stand on the page, in their order; what is there already stays untouched. */
export function place(bars: Bar[], act: (bar: Bar, what: string) => void): void {
  const first = hosts.size === 0
  const hostOf = (bar: Bar): HTMLElement => {
    let have = hosts.get(bar.id)
    if (!have || have.html !== bar.html || have.css !== bar.css) {
      have?.host.remove()
      const own = atEdge(bar) || bar.slot === 'inline' ? '' : (parts.popup?.css ?? '')
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
  for (const [where, { name, css }] of Object.entries({ ...edges, ...parts.popup?.places })) {
    let box = boxes.get(name)
    const here = bars.filter((b) => placeOf(b) === where)
    if (!here.length) {
      detach(box)
      boxes.delete(name)
      continue
    }
    if (!box) boxes.set(name, (box = document.createElement(name)))
    if (!box.isConnected) attach(box)
    box.style.cssText = `display:block;margin:0!important;padding:0!important;${css}`
    // What comes later is said to a screen reader; what was there from the start is simply read.
    if (!first) box.setAttribute('aria-live', 'polite')
    here.forEach((bar, i) => {
      const host = hostOf(bar)
      if (box.children[i] !== host) box.insertBefore(host, box.children[i] ?? null)
    })
  }
  parts.ways?.placed(bars)
  // Heights change with the width of the window, and when fonts arrive.
  for (const box of boxes.values()) sizes.observe(box)
  if (!parts.edges) setStyle('edges', '')
  else if (!parts.edges.fit(heights) && !topIsBlocked) {
    topIsBlocked = true
    return place(bars, act)
  }
  parts.popup?.placed()
  parts.inpage?.placed(bars, hostOf)
}

function listen(host: HTMLElement, bar: Bar, act: (bar: Bar, what: string) => void): void {
  const root = host.shadowRoot as ShadowRoot
  root.addEventListener('click', (e) => {
    const target = (e.target as Element).closest<HTMLElement>('[data-act],a')
    const what = target?.dataset.act ?? 'clicked'
    if (!target) return
    parts.ways?.act(bar, what)
    act(bar, what)
  })
  root.addEventListener('keydown', (e) => {
    if ((e as KeyboardEvent).key === 'Escape')
      root.querySelector<HTMLElement>('[data-act=close],[data-act=fold]')?.click()
  })
}
