// Notices in the page itself: at a spot, in its code, in the tab's title. They come once the page is at rest, so that a
// framework finds what its server sent, and are kept where they belong for as long as the page lives. Loaded when a
// decision has one.
import { putCode } from './code'
import type { InPage } from './place'
import { setStyle } from './reserve'
import { atRest } from './rest'
import type { Policy } from './trust'
import type { Bar } from './shapes'
import { styleOf, type Standing } from './rooms'
import { find, firstSpot } from './spot'

let title: string | undefined
/** The notice in the tab title: it stands nowhere on the page. */
let titled: { bar: Bar; root: ShadowRoot } | undefined

/** Puts a notice's words into the tab title, or the page's own back; a countdown in them goes on. */
function setTitle(bar: Bar | undefined, shadow: (html: string, css: string) => HTMLElement): void {
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

/** The element that is hidden for a notice that stands instead of it, by the notice's id. */
const hiddenFor = new Map<string, HTMLElement>()

/** Shows again what was hidden for a notice. */
function showAgain(id: string): void {
  const e = hiddenFor.get(id)
  if (e) e.hidden = false
  hiddenFor.delete(id)
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

/** What the script of the page gives. */
interface Page {
  nonce: string
  policy: Policy
  /** The path of this page view, with its route. */
  path(): string
  shadow(html: string, css: string): HTMLElement
  /** Remembers the room that blocks take on this page, as a style that keeps it. */
  rememberBlocks(css: string): void
  /** What stands on the page has changed. */
  placed(): void
}

/** A page that takes a block out again at once, each time, has its way after so many times in a second. */
const most = 20
/** How often blocks without their element look for it, ms. */
const lookAfter = 200

const isOurs = (e: Element | null) => e?.localName === 'mastflag-notice'

export const start = (page: Page): InPage => {
  let blocks: Bar[] = []
  let latest: Bar[] = []
  let hostOf: (bar: Bar) => HTMLElement
  let timer = 0
  let placementTimes: number[] = []
  /** Whether all in the page stands as it was last asked for. */
  let isSettled = true
  /** The element that each block was put at, and at which side of it, by the notice's id; none where it has none. */
  const anchors = new Map<string, { element: HTMLElement; where: string }>()
  const watch = new MutationObserver(() => {
    // What was moved is put back before the page is drawn; what has no element yet can wait.
    if (blocks.some((b) => anchors.has(b.id) && !isInPlace(b))) settle()
    else if (blocks.some((b) => !anchors.has(b.id))) timer ||= setTimeout(settle, lookAfter)
  })

  /** Whether a block stands at its element, with at most other blocks between them. */
  function isInPlace(bar: Bar): boolean {
    const host = hostOf(bar)
    const { element, where } = anchors.get(bar.id)!
    if (!host.isConnected || !element.isConnected) return false
    const side = /first|after/.test(where) ? 'previousElementSibling' : 'nextElementSibling'
    let next: Element | null = host[side]
    while (isOurs(next)) next = next![side]
    return /first|last/.test(where) ? !next && host.parentElement === element : next === element
  }

  /** Puts each block where it belongs; one whose element is not there stands nowhere. */
  function settle(): void {
    clearTimeout(timer)
    timer = 0
    const now = Date.now()
    placementTimes = placementTimes.filter((t) => now - t < 1000)
    if (blocks.length && placementTimes.length > most * blocks.length) {
      timer = setTimeout(settle, 1000)
      return
    }
    watch.disconnect()
    let changed = false
    /** The last that stands at each spot: the next stands behind it, so that they are in the order of rank. */
    const last: Record<string, HTMLElement> = {}
    const standing: Standing[] = []
    // A script that puts back a copy of the page brings empty copies of notices with it.
    for (const e of document.querySelectorAll('mastflag-notice')) if (!e.shadowRoot) e.remove()
    for (const id of hiddenFor.keys()) if (!blocks.some((b) => b.id === id)) showAgain(id)
    for (const bar of blocks) {
      const host = hostOf(bar)
      // It came with the page: it stands once.
      if (document.querySelector(`div[data-mastflag="${bar.id}"]`)) continue
      const { selector = '', where = 'after' } = firstSpot(bar) ?? {}
      const element = selector && find(selector)
      if (!element) {
        if (host.isConnected) changed = true
        host.remove()
        anchors.delete(bar.id)
        showAgain(bar.id)
        continue
      }
      const spot = `${where} ${selector}`
      const before = last[spot]
      const was = anchors.get(bar.id)
      anchors.set(bar.id, { element, where })
      if (was?.element !== element || !isInPlace(bar) || (before && before.nextElementSibling !== host)) {
        if (before) before.after(host)
        else if (where === 'first') element.prepend(host)
        else if (where === 'last') element.append(host)
        else if (where === 'after') element.after(host)
        else element.before(host)
        placementTimes.push(now)
        changed = true
        takeAnswers(host)
      }
      if (hiddenFor.get(bar.id) !== element) showAgain(bar.id)
      if (where === 'instead') {
        element.hidden = true
        hiddenFor.set(bar.id, element)
      } else standing.push({ host, at: element, where })
      last[spot] = host
    }
    if (blocks.length) watch.observe(document, { childList: true, subtree: true })
    // The room that was kept goes back, to the blocks that stand there now.
    setStyle('blocks', '')
    if (!changed) return
    page.placed()
    page.rememberBlocks(styleOf(standing))
  }

  return {
    placed(bars, hosts) {
      hostOf = hosts
      const inline = bars.filter((b) => b.slot === 'inline')
      // What no longer stands goes at once, and what is there stays; all else comes once the page is at rest.
      for (const id of anchors.keys()) if (!inline.some((b) => b.id === id)) anchors.delete(id)
      inline.forEach(hostOf)
      latest = inline
      isSettled = false
      void atRest().then(() => {
        if (latest !== inline) return
        isSettled = true
        blocks = inline
        if (!blocks.length) page.rememberBlocks('')
        settle()
        putCode(
          bars.filter((b) => b.slot === 'code'),
          page.path(),
          page.shadow,
          page.policy,
          page.nonce,
        )
        setTitle(
          bars.find((b) => b.slot === 'title'),
          page.shadow,
        )
        page.placed()
      })
    },
    isSettled: () => isSettled,
    rootOf: (id) => (titled?.bar.id === id ? titled.root : undefined),
  }
}
