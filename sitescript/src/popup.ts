// Notices elsewhere than at the edges: in a corner, in the middle, over
// everything, in the tab title, at a spot in the page, in its code. Loaded when a
// decision has one.
import { putCode } from './code'
import type { Popup } from './place'
import type { Policy } from './trust'
import type { Bar } from './shapes'
import { release, rememberRooms, type Stood } from './rooms'
import { find, firstSpot } from './spot'

declare const CARD_CSS: string

const floats = 'display:block;position:fixed;bottom:16px;z-index:2147482999;width:min(360px,calc(100vw - 32px));'
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

let title: string | undefined
/** The notice in the tab title: it stands nowhere on the page. */
let titled: { bar: Bar; root: ShadowRoot } | undefined

/** Puts a notice's words into the tab title, or the page's own back; a countdown in them goes on. */
function tabTitle(bar: Bar | undefined, shadow: (html: string, css: string) => HTMLElement): void {
  if (bar?.id === titled?.bar.id && bar?.html === titled?.bar.html) return
  titled = undefined
  if (title !== undefined && (!bar || bar.tab)) {
    document.title = title
    title = undefined
  }
  if (!bar) return
  const root = shadow(bar.html, bar.css).shadowRoot as ShadowRoot
  titled = { bar, root }
  // What is for visitors who are elsewhere has a part of its own.
  if (bar.tab) return
  title ??= document.title
  const say = () => {
    if (titled?.root !== root) return
    const words = root.querySelector('.words')?.cloneNode(true) as HTMLElement | undefined
    words?.querySelectorAll('[hidden],.unseen').forEach((e) => e.remove())
    document.title = words?.textContent?.replace(/\s+/g, ' ').trim() || (title as string)
  }
  say()
  new MutationObserver(say).observe(root, { subtree: true, childList: true, characterData: true, attributes: true })
}

/** What stands aside for a notice that stands instead of it, by the notice's id. */
const aside = new Map<string, HTMLElement>()
/** The spot of each that stands in the page, by the notice's id. */
const stands = new Map<string, string>()
let late: MutationObserver | undefined
/** Until when a spot that is not there yet is looked out for. */
let patience = 0

/** Shows again what stood aside for a notice. */
function back(id: string): void {
  const e = aside.get(id)
  if (e) e.hidden = false
  aside.delete(id)
}

const answering = new WeakSet<HTMLElement>()

/** Takes the answers of a block's questions: tells the site, and says thanks in their place. */
function takeAnswers(host: HTMLElement): void {
  const root = host.shadowRoot as ShadowRoot
  if (answering.has(host) || !root.querySelector('.question')) return
  answering.add(host)
  root.addEventListener('click', (e) => {
    const pressed = (e.target as Element).closest<HTMLElement>('[data-event]')
    const question = pressed?.closest('.question')
    if (!pressed || !question) return
    ;(window as { mastflag?: { event?(name: string): void } }).mastflag?.event?.(pressed.dataset.event as string)
    question.querySelectorAll('[data-event]').forEach((b) => b.remove())
    const thanks = question.querySelector<HTMLElement>('.thanks')
    if (thanks) thanks.textContent = thanks.dataset.thanks as string
  })
}

/** The site's key, and by what code goes into the page. */
interface Page {
  key: string
  nonce: string
  policy: Policy
}
let page: Page

/** Puts notices at their spots; one whose spot comes later is put there then. */
function spots(bars: Bar[], hostOf: (bar: Bar) => HTMLElement): void {
  late?.disconnect()
  for (const id of aside.keys()) if (!bars.some((b) => b.id === id)) back(id)
  release()
  let lost = false
  /** The last that stands at each spot: the next stands behind it, so that they are in the order of rank. */
  const last: Record<string, HTMLElement> = {}
  const placed: Stood[] = []
  for (const bar of bars) {
    const host = hostOf(bar)
    // It came with the page: it stands once.
    if (document.querySelector(`div[data-mastflag="${bar.id}"]`)) continue
    const found = firstSpot(bar)
    const { selector = '', where = 'after' } = found ?? {}
    const spot = found ? `${where} ${selector}` : host.isConnected && stands.get(bar.id)
    if (!spot) {
      lost = true
      continue
    }
    if (!host.isConnected || spot !== stands.get(bar.id)) {
      const at = find(selector) as HTMLElement
      if (last[spot]) last[spot].after(host)
      else if (where === 'first') at.prepend(host)
      else if (where === 'last') at.append(host)
      else if (where === 'after') at.after(host)
      else at.before(host)
      back(bar.id)
      if (where === 'instead') {
        at.hidden = true
        aside.set(bar.id, at)
      }
      takeAnswers(host)
      stands.set(bar.id, spot)
    }
    last[spot] = host
    const at = find(selector)
    if (at && where !== 'instead') placed.push({ host, at, where })
  }
  // Once the room of the bars is taken down, which begins anew.
  setTimeout(() => remember(placed))
  if (!lost) return
  patience ||= Date.now() + 15_000
  late = new MutationObserver(() => (Date.now() < patience ? spots(bars, hostOf) : late?.disconnect()))
  late.observe(document.body, { childList: true, subtree: true })
}

/** Takes down the room that blocks take; not of a preview, which visitors do not see. */
function remember(placed: Stood[]): void {
  try {
    if (!sessionStorage.getItem(`mastflag.${page.key}.preview`)) rememberRooms(page.key, placed)
  } catch {
    // Storage is barred.
  }
}

/**
 * Cards stand above what floats at the bottom; where the window is too narrow for two corners side by side, one stands
 * on the other.
 */
function stack(): void {
  const [start, end] = ['start', 'end'].map((c) => document.querySelector<HTMLElement>(`mastflag-corner-${c}`))
  const under = parseFloat(document.documentElement.style.scrollPaddingBottom) || 0
  for (const card of [start, end]) if (card) card.style.bottom = `${under + 16}px`
  if (start && end && innerWidth < 752) end.style.bottom = `${under + start.offsetHeight + 24}px`
}
const corners = new ResizeObserver(stack)
corners.observe(document.documentElement)

export const start = (its: Page): Popup => {
  page = its
  return popup
}

const popup: Popup = {
  places: {
    'corner-start': { name: 'mastflag-corner-start', css: floats + 'inset-inline-start:16px' },
    'corner-end': { name: 'mastflag-corner-end', css: floats + 'inset-inline-end:16px' },
    centre: { name: 'mastflag-centre', css: middles + '#0009' },
    cover: { name: 'mastflag-cover', css: middles + '#000d' },
  },
  css: CARD_CSS,
  rootOf: (id) => (titled?.bar.id === id ? titled.root : undefined),
  placed(bars, shadow, hostOf) {
    spots(
      bars.filter((b) => b.slot === 'inline'),
      hostOf,
    )
    putCode(
      bars.filter((b) => b.slot === 'code'),
      shadow,
      page.policy,
      page.nonce,
    )
    const start = document.querySelector('mastflag-corner-start')
    if (start) corners.observe(start)
    stack()
    modal(
      [...document.querySelectorAll<HTMLElement>('mastflag-centre,mastflag-cover')].find(
        (e) => e.style.display !== 'none',
      ) ?? null,
    )
    tabTitle(
      bars.find((b) => b.slot === 'title'),
      shadow,
    )
  },
}
