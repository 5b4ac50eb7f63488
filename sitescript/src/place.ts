// Puts bars on the page: each in a shadow root of its own, in one of four
// holders: in the page or floating, at the top or at the bottom.
import { holder } from './reserve'

declare const BASE_CSS: string

/** A bar as the server renders it. */
export interface Bar {
  id: string
  slot: 'top' | 'bottom' | 'corner-start' | 'corner-end' | 'centre' | 'cover' | 'title' | 'inline'
  stay: 'sticking' | 'scrolling'
  html: string
  css: string
  /** Among the site's notices, the strongest first. */
  order: number
  /** The acts that are remembered beside closing: shown, clicked. */
  keep?: string[]
}

interface TrustedTypes {
  createPolicy(name: string, rules: { createHTML: (s: string) => string }): { createHTML(s: string): string }
}

const trusted = (window as { trustedTypes?: TrustedTypes }).trustedTypes?.createPolicy('mastflag', { createHTML: (s) => s })

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
  root.innerHTML = (trusted ? trusted.createHTML(html) : html) as string
  return host
}

const places = {
  'top scrolling': { name: holder, css: 'display:block' },
  'top sticking': { name: 'mastflag-over', css: 'display:block;position:fixed;inset:0 0 auto;z-index:2147483000' },
  'bottom sticking': { name: 'mastflag-under', css: 'display:block;position:fixed;inset:auto 0 0;z-index:2147483000' },
  'bottom scrolling': { name: 'mastflag-bottom', css: 'display:block' },
  'corner-start': {
    name: 'mastflag-corner-start',
    css: 'display:block;position:fixed;bottom:16px;inset-inline-start:16px;z-index:2147482999;width:min(360px,calc(100vw - 32px));box-shadow:0 4px 24px #0006',
  },
  'corner-end': {
    name: 'mastflag-corner-end',
    css: 'display:block;position:fixed;bottom:16px;inset-inline-end:16px;z-index:2147482999;width:min(360px,calc(100vw - 32px));box-shadow:0 4px 24px #0006',
  },
  centre: {
    name: 'mastflag-centre',
    css: 'display:grid;place-items:center;position:fixed;inset:0;z-index:2147483001;padding:16px;background:#0009',
  },
  cover: {
    name: 'mastflag-cover',
    css: 'display:flex;align-items:center;justify-content:center;position:fixed;inset:0;z-index:2147483001;padding:16px;background:#000d',
  },
}

/** Where a notice goes, as a key of places; the tab title and the page itself are none. */
const placeOf = (b: Bar) => (b.slot === 'top' || b.slot === 'bottom' ? `${b.slot} ${b.stay}` : b.slot)

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
function tabTitle(bar: Bar | undefined): void {
  if (bar) {
    title ??= document.title
    const words = shadow(bar.html, bar.css).shadowRoot?.querySelector('.words')
    document.title = words?.textContent?.trim() || title
  } else if (title !== undefined) {
    document.title = title
    title = undefined
  }
}

const hosts = new Map<string, { host: HTMLElement; html: string; css: string }>()

/** Makes exactly these bars stand on the page, in their order; what is there already stays untouched. Returns the height of the bars in the page at its top, px. */
export function place(bars: Bar[], act: (bar: Bar, what: string, target: HTMLElement) => void): number {
  const first = hosts.size === 0
  const wanted = new Set(bars.map((b) => b.id))
  for (const [id, have] of hosts) {
    if (!wanted.has(id)) {
      have.host.remove()
      hosts.delete(id)
    }
  }
  for (const [where, { name, css }] of Object.entries(places)) {
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
      let have = hosts.get(bar.id)
      if (!have || have.html !== bar.html || have.css !== bar.css) {
        have?.host.remove()
        have = { host: shadow(bar.html, bar.css), html: bar.html, css: bar.css }
        if (!/top|bottom/.test(where)) have.host.className = 'card'
        hosts.set(bar.id, have)
        listen(have.host, bar, act)
      }
      if (box.children[i] !== have.host) box.insertBefore(have.host, box.children[i] ?? null)
    })
  }
  modal(document.querySelector('mastflag-centre,mastflag-cover'))
  tabTitle(bars.find((b) => b.slot === 'title'))
  // Neither what gets the focus (WCAG 2.2 §2.4.11) nor a bar in the page may lie under a floating bar.
  const page = document.documentElement.style
  page.scrollPaddingTop = height('mastflag-over')
  page.scrollPaddingBottom = height('mastflag-under')
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

function listen(host: HTMLElement, bar: Bar, act: (bar: Bar, what: string, target: HTMLElement) => void): void {
  const root = host.shadowRoot as ShadowRoot
  root.addEventListener('click', (e) => {
    const target = (e.target as Element).closest<HTMLElement>('[data-act],a')
    if (target) act(bar, target.dataset.act ?? 'link', target)
  })
  root.addEventListener('keydown', (e) => {
    const close = root.querySelector<HTMLElement>('[data-act=close]')
    if ((e as KeyboardEvent).key === 'Escape' && close) act(bar, 'close', close)
  })
}
