// Longer messages that unfold or stand in a dialog, and notices that were folded away to a
// tab at the edge; and the loading of what few notices need. Loaded where a notice has any of it.
import type { Memory } from './memory'
import type { Bar } from './shapes'

/** What the page offers. `quiet` is whether this is a preview, which keeps nothing. */
export interface Page {
  memory: Memory
  rootOf(id: string): ShadowRoot | undefined
  shadow(html: string, css: string): HTMLElement
  /** Puts an element beside the body, where it stays until it is detached. */
  attach(e: HTMLElement): void
  detach(e?: HTMLElement): void
  /** Makes the page show what is to show. */
  put(): void
  quiet(): boolean
  load<T>(part: string): Promise<T>
  /** Asks the server what shows. */
  ask(): Promise<void>
  now(): string
  /** The address of the page, as it was asked about. */
  address(): string
  /** Facts that only this page knows. */
  facts(): object
  /** What a press on a notice does. */
  act(bar: Bar, what: string): void
  /** Where the server takes something of this site. */
  at(what: string): string
}

/** A part for what few notices need, loaded where one does. */
export interface Special {
  placed(bars: Bar[]): void
}

/** So many notices are remembered as folded away. */
const most = 20

export function start(page: Page) {
  const { memory, rootOf } = page
  const tabs = new Map<string, HTMLElement>()
  /** What was folded away in a preview. */
  const here = new Set<string>()
  const away = (id: string) => (page.quiet() ? here.has(id) : !!memory.kept.folded?.includes(id))

  /** Whether a countdown may take the visitor elsewhere: once in a session, and only where that is remembered. */
  function mayGo(id: string): boolean {
    const gone = memory.kept.notices[id]?.gone
    if (gone && gone >= (memory.visit('').session ?? '')) return false
    memory.change(({ notices }) => ((notices[id] ??= {}).gone = page.now()))
    return !memory.visit('').noStorage
  }

  function more(root: ShadowRoot): void {
    const longer = root.getElementById('longer') as HTMLElement
    if (!(longer instanceof HTMLDialogElement)) {
      longer.hidden = !longer.hidden
      root.querySelector('button[data-act=more]')?.setAttribute('aria-expanded', String(!longer.hidden))
      return
    }
    // Escape closes it, and not the notice with it.
    longer.onkeydown = (e) => e.stopPropagation()
    longer.onclick = (e) => {
      const { left, right, top, bottom } = longer.getBoundingClientRect()
      const outside = e.clientX < left || e.clientX > right || e.clientY < top || e.clientY > bottom
      // A press by a key has no place.
      if (outside && e.detail) longer.close()
    }
    longer.showModal()
  }

  /** Whether a card stands in the corner on that side. */
  const taken = (side: string) =>
    [...document.querySelectorAll<HTMLElement>(`mastflag-corner-${side} > *`)].some((e) => e.style.display !== 'none')

  /** Folds a notice away, or opens it again, and takes the focus along. */
  function fold(bar: Bar, folded: boolean): void {
    if (!page.quiet())
      memory.change((k) => {
        const others = (k.folded ?? []).filter((id) => id !== bar.id)
        k.folded = folded ? [...others, bar.id].slice(-most) : others
      })
    else if (folded) here.add(bar.id)
    else here.delete(bar.id)
    page.put()
    const root = folded ? tabs.get(bar.id)?.shadowRoot : rootOf(bar.id)
    root?.querySelector<HTMLElement>('button,a')?.focus()
  }

  function tab(bar: Bar): HTMLElement {
    const host = page.shadow('<button type="button" class="tab" aria-expanded="false"></button>', bar.css + css)
    const button = host.shadowRoot!.querySelector('button')!
    ;[button.textContent] = bar.fold!
    button.setAttribute('aria-label', bar.fold![1])
    button.onclick = () => fold(bar, false)
    host.dataset.says = bar.fold![1]
    return host
  }

  /** The parts for what few notices need, by name, once they are there. */
  const loadedParts: Record<string, Special | undefined> = {}
  let latest: Bar[] = []
  /** Has a part do its work, once it is loaded. Where it cannot be, its notices stand without it. */
  function loadPart(name: string): void {
    if (name in loadedParts) return loadedParts[name]?.placed(latest)
    loadedParts[name] = undefined
    page.load<{ start(page: Page): Special }>(name).then(
      (m) => (loadedParts[name] = m.start(page)).placed(latest),
      () => delete loadedParts[name],
    )
  }

  const watched = new WeakSet<HTMLElement>()
  /** Closes a notice by a press outside, and once nothing was done with it for a while. */
  function watchExit(bar: Bar, host: HTMLElement): void {
    if (watched.has(host)) return
    watched.add(host)
    const { outside, after } = bar.out!
    const box = host.parentElement!
    if (outside) box.addEventListener('click', (e) => e.target === box && host.isConnected && close(bar, host))
    if (!after || page.quiet()) return
    let since = Date.now()
    for (const what of ['pointermove', 'keydown', 'focusin'])
      host.addEventListener(what, () => (since = Date.now()), { passive: true })
    const timer = setInterval(() => {
      if (!host.isConnected) clearInterval(timer)
      // What nobody can see does not count.
      else if (document.hidden || host.matches(':hover')) since = Date.now()
      else if (Date.now() - since >= after) close(bar, host)
    }, 500)
  }
  function close(bar: Bar, host: HTMLElement): void {
    animateExit(bar, host)
    page.act(bar, 'close')
  }

  /** Has a notice move as it goes: what is taken off the page stands there a little longer, out of reach. */
  function animateExit(bar: Bar, host: HTMLElement): void {
    const motion = bar.out?.motion
    if (!motion || matchMedia('(prefers-reduced-motion:reduce)').matches) return
    const { left, top, width, height } = host.getBoundingClientRect()
    queueMicrotask(() => {
      if (host.isConnected) return
      host.style.cssText =
        `position:fixed;z-index:2147483001;pointer-events:none;left:${left}px;top:${top}px;` +
        `width:${width}px;height:${height}px`
      host.inert = true
      document.body.after(host)
      const far = bar.slot === 'top' ? '-100%' : '100%'
      const end = motion === 'fade' ? { opacity: 0 } : { transform: `translateY(${far})`, opacity: 0 }
      host.animate([{}, end], { duration: 250, easing: 'ease-in' }).onfinish = () => host.remove()
    })
  }

  return {
    /** Takes the visitor where the end of a countdown leads (rule C4), and says whether it does. */
    leads(bar: Bar): boolean {
      const { go } = bar.count!
      if (!go) return false
      const to = new URL(go, location.href)
      const bare = (u: { origin: string; pathname: string }) => u.origin + u.pathname.replace(/\/$/, '')
      // Never to the page it is on, and never twice in a session.
      if (bare(to) === bare(location) || !mayGo(bar.id)) return false
      location.assign(to)
      return true
    },

    /** Hides what is folded away, and puts its tab where it would stand. */
    placed(bars: Bar[]): void {
      latest = bars
      for (const name of new Set([...bars.flatMap((b) => b.uses ?? []), ...Object.keys(loadedParts)])) loadPart(name)
      for (const bar of bars) {
        const host = rootOf(bar.id)?.host as HTMLElement | undefined
        if (!host) continue
        if (bar.behind !== undefined) host.parentElement!.style.background = `rgb(0 0 0/${bar.behind}%)`
        if (bar.out) watchExit(bar, host)
        const form = bar.form && host.shadowRoot!.querySelector('form')
        // Sent before what sends it is loaded, it is sent then, and never by the browser itself.
        if (form)
          form.onsubmit = (e) => {
            e.preventDefault()
            form.dataset.sent = 'early'
          }
      }
      for (const [id, host] of tabs)
        if (!away(id) || !bars.some((b) => b.id === id)) {
          page.detach(host)
          tabs.delete(id)
        }
      for (const bar of bars) {
        const host = bar.fold && (rootOf(bar.id)?.host as HTMLElement | undefined)
        if (!host) continue
        const folded = away(bar.id)
        host.style.display = folded ? 'none' : ''
        if (/^(centre|cover)$/.test(bar.slot) && folded) host.parentElement!.style.display = 'none'
        if (!folded) continue
        const old = tabs.get(bar.id)
        if (old?.dataset.says !== bar.fold![1]) {
          page.detach(old)
          tabs.set(bar.id, tab(bar))
        }
        if (!tabs.get(bar.id)!.isConnected) page.attach(tabs.get(bar.id)!)
      }
      // How far tabs reach in from the top and from the bottom.
      const reach = { top: 0, bottom: 0 }
      for (const bar of bars) {
        const host = tabs.get(bar.id)
        if (!host) continue
        const top = bar.slot === 'top'
        const at = top ? 'top' : 'bottom'
        // What lies in the page scrolls away with it.
        const fixed = !top || bar.position === 'sticking'
        const edge =
          document.querySelector(top ? 'mastflag-over' : 'mastflag-under')?.getBoundingClientRect().height ?? 0
        const [, own] = /^corner-(.*)/.exec(bar.slot) ?? []
        const side = own ?? (!top && taken('end') ? 'start' : 'end')
        host.style.cssText =
          `position:${fixed ? 'fixed' : 'absolute'};z-index:2147482999;${at}:${edge + reach[at]}px;` +
          `inset-inline-${side}:16px;max-width:60vw`
        reach[at] += host.getBoundingClientRect().height
      }
    },

    act(bar: Bar, what: string): void {
      const root = rootOf(bar.id)
      if (what === 'more' && root) more(root)
      if (what === 'shut') (root?.getElementById('longer') as HTMLDialogElement | null)?.close()
      if (what === 'fold') fold(bar, true)
      if (what === 'close' && root) animateExit(bar, root.host as HTMLElement)
    },
  }
}

const css =
  '.tab{font:inherit;font-size:14px;min-height:28px;max-width:100%;padding:4px 14px;border:1px solid ' +
  'color-mix(in srgb,var(--text) 40%,transparent);background:var(--field);color:var(--text);cursor:pointer;' +
  'overflow:hidden;text-overflow:ellipsis;white-space:nowrap;border-radius:var(--button,3px)}' +
  '.tab:focus-visible{outline:3px solid var(--text);outline-offset:-5px}@media print{:host{display:none}}'
