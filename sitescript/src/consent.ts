// Asks for consent, and holds back what needs it: scripts and frames that are
// marked with a purpose run once it is agreed to; what they keep goes once it
// is not. Loaded only where a site asks.
import { sheets } from './reserve'
import type { Bar, ConsentState as State } from './shapes'
import { download, newID, sender, type Page } from './sending'
import { runnable } from './trust'

export interface Consent {
  /** What holds from now on, and what stands on the page; undefined where nothing is asked any more. */
  hold(state: State | undefined, bars: Bar[]): void
  /** A press on a notice. */
  act(bar: Bar, what: string): void
}

const marked = '[data-purpose]'
const form = (pattern: string) =>
  new RegExp(
    `^${pattern
      .split('*')
      .map((s) => s.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
      .join('.*')}$`,
  )
/** Whether a visitor has written something on the page that is not sent yet. */
const written = () =>
  [...document.querySelectorAll<HTMLInputElement>('input,textarea')].some((f) => f.value !== f.defaultValue)
/** The answer in what is kept, as text; undefined if there is none. */
const consentIn = (kept: string | null) => {
  try {
    return JSON.stringify(JSON.parse(kept as string).consent)
  } catch {
    return undefined
  }
}
const purposesOf = (e: Element) => (e as HTMLElement).dataset.purpose!.split(/\s+/).filter(Boolean)

export function start(page: Page): Consent {
  const address = page.at('r')
  const { memory } = page
  let state: State | undefined
  let granted = new Set<string>()
  /** Purposes of which something has run on this page. */
  const ran = new Set<string>()
  const stands = new Map<Element, HTMLElement>()
  let corner: HTMLElement | undefined
  let bars: Bar[] = []
  /** The notice was brought up once more, by this control, if it was one: the focus goes back to it. */
  let back = false
  let opener: HTMLElement | undefined

  const { guard } = sheets()
  const may = (e: Element) => purposesOf(e).every((p) => granted.has(p))
  const setting = () => state?.part

  /** Takes away what stands where a frame would. */
  function clearStand(frame: Element): void {
    if (!stands.has(frame)) return
    stands.get(frame)!.remove()
    stands.delete(frame)
    ;(frame as HTMLElement).hidden = false
  }

  /** Lets one marked thing run, or keeps it from that. */
  function gate(e: Element): void {
    if (e.localName === 'script') {
      if (guard?.held.has(e) || !may(e) || (e as HTMLScriptElement).type !== 'text/plain') return
      const live = runnable(e as HTMLScriptElement, page.policy, 'type')
      if ((e as HTMLElement).dataset.type) live.type = (e as HTMLElement).dataset.type as string
      purposesOf(e).forEach((p) => ran.add(p))
      e.replaceWith(live)
      return
    }
    const { src } = (e as HTMLElement).dataset
    if (!src) return
    const frame = e as HTMLIFrameElement
    if (may(e)) {
      clearStand(e)
      if (frame.getAttribute('src') !== src) frame.src = src
    } else {
      frame.removeAttribute('src')
      if (e.localName === 'iframe' && !stands.has(e)) standIn(frame, src)
    }
  }

  /** What stands where a frame would: says what is missing, and lets it be allowed. */
  function standIn(frame: HTMLIFrameElement, src: string): void {
    const part = setting()
    if (!part) return
    const lacks = purposesOf(frame).filter((p) => !granted.has(p))
    const host = page.shadow('<div class="gap"><p></p><button type="button" class="allow"></button></div>', gapCSS)
    const root = host.shadowRoot as ShadowRoot
    const said = {
      host: new URL(src, location.href).hostname,
      purposes: lacks.map((p) => part.names[p] ?? p).join(', '),
    }
    root.querySelector('p')!.textContent = part.words.missing.replace(
      /\{(host|purposes)\}/g,
      (_, what: keyof typeof said) => said[what],
    )
    const button = root.querySelector('button')!
    // What nobody has given a purpose yet is not asked about.
    button.hidden = !lacks.every((p) => part.asked.includes(p))
    if (button.hidden) root.querySelector('p')!.textContent = said.host
    button.textContent = part.words.allow
    button.onclick = () => {
      // Just that: what was answered before stays, what was not is still open.
      const before = memory.kept.consent
      const list = [...(before?.granted ?? []).filter((p) => granted.has(p)), ...lacks]
      answer(list, 'frame', state?.answered ? before?.refused.filter((p) => !list.includes(p)) : [])
      frame.focus()
    }
    const { width, height } = frame
    host.style.cssText =
      `display:block;max-width:100%;width:${+width ? `${width}px` : '100%'};` +
      `min-height:${+height ? `${height}px` : '9em'}`
    host.style.margin = getComputedStyle(frame).margin
    frame.hidden = true
    frame.after(host)
    stands.set(frame, host)
  }

  /** Removes what is kept for purposes that are not agreed to. */
  function clear(): void {
    if (page.quiet()) return // whoever looks at a preview keeps their own
    for (const [kind, name, host, purpose] of setting()?.clear ?? []) {
      if (granted.has(purpose)) continue
      const fits = form(name)
      if (kind === 'cookie') {
        for (const c of document.cookie.split('; ')) {
          const [had] = c.split('=')
          if (fits.test(had) && !had.startsWith('mastflag.')) expire(had, host)
        }
      } else
        for (const where of ['localStorage', 'sessionStorage'] as const)
          try {
            for (const k of Object.keys(window[where]))
              if (fits.test(k) && !k.startsWith('mastflag.')) window[where].removeItem(k)
          } catch {
            // Barred: nothing is kept there.
          }
    }
  }

  /** Takes a consequence of what is agreed to now. */
  function apply(next: string[]): void {
    const before = granted
    granted = new Set(next)
    // What has no purpose yet is held only where something has to be agreed to first, and the site wants that.
    if (state && !(state.rule === 'opt-in' && state.part.unsorted)) granted.add('?')
    // The guard marks what it holds, and takes the mark away from what it lets go.
    guard?.know(state?.part.holds, [...granted], !page.quiet())
    for (const e of stands.keys()) if (!e.matches(marked)) clearStand(e)
    for (const e of document.querySelectorAll(marked)) gate(e)
    clear()
    const changed = before.size !== granted.size || next.some((p) => !before.has(p))
    if (!changed) return
    const gone = [...ran, ...(guard?.ran ?? [])].some((p) => !granted.has(p))
    const event = new CustomEvent('mastflag:consent', {
      detail: { granted: next, answered: !!state?.answered },
      cancelable: true,
    })
    // What has run cannot be made not to have: the page begins anew, unless it
    // says that it sees to it, or something was written on it that would be lost.
    if (!document.dispatchEvent(event) || !gone || page.quiet()) return
    if (!written()) location.reload()
    // What is still running may keep something once more.
    setTimeout(clear, 2000)
    addEventListener('pagehide', clear)
  }

  const { send, enqueue } = sender(page, 'untold', address, () => state?.mark)
  const record = (what: object) => page.quiet() || enqueue(what)

  /** Takes an answer; what is not agreed to is refused, unless it is said what is. */
  function answer(list: string[], how: string, refusing?: string[]): void {
    const part = setting()
    if (!state || !part) return
    const agreed = part.asked.filter((p) => list.includes(p))
    const refused = refusing ?? part.asked.filter((p) => !list.includes(p))
    const whole = agreed.length + refused.length === part.asked.length
    const id = newID()
    if (!page.quiet()) {
      const { signal, rule } = state
      memory.change((k) => (k.consent = { id, at: page.now(), granted: agreed, refused, of: part.of, signal, rule }))
      const shown = bars.find((b) => b.hash)
      record({ id, hash: shown?.hash ?? state.hash, granted: agreed, refused, how, signal, page: page.path() })
    }
    state.answered = whole
    const notice = bars.find((b) => b.hash)
    if (notice && whole) page.drop(notice)
    apply(whole ? ['necessary', ...agreed] : [...granted, ...agreed])
    if (!page.quiet()) void page.ask().then(() => back && (opener?.isConnected ? opener : cornerButton())?.focus())
  }

  /** What agreeing to all means: not what a privacy signal refuses (rule K5). */
  const fine = () => state!.part.asked.filter((p) => !(state!.signal && state!.part.signal?.includes(p)))
  addEventListener('pagehide', () => {
    if (
      state?.rule !== 'opt-in' &&
      !state?.answered &&
      state?.part.also?.includes('going-on') &&
      bars.some((b) => b.hash)
    )
      answer(fine(), 'going-on')
  })

  const cornerButton = () => corner?.shadowRoot?.querySelector('button')

  /** Brings the notice up once more. */
  function again(from?: HTMLElement): void {
    back = true
    opener = from
    void page.ask(true).then(() => {
      const notice = bars.find((b) => b.hash)
      ;(notice && page.rootOf(notice.id))?.querySelector<HTMLElement>('button')?.focus()
    })
  }

  /** The small control that asks again. */
  function control(): void {
    const part = setting()
    if (!part || part.again === 'none' || state?.rule === 'nothing' || bars.some((b) => b.hash)) {
      page.detach(corner)
      corner = undefined
      return
    }
    if (!corner) {
      corner = page.shadow('<button type="button" class="again"></button>', againCSS)
      page.attach(corner)
    }
    const button = cornerButton()!
    button.textContent = part.words.again
    button.onclick = () => again(button)
    const [field = '#fff', text = '#1c1c1c'] = part.colours ?? []
    // The button alone is upright: in what holds it the sides of the window keep their names.
    button.style.cssText =
      `background:${field};color:${text};border-color:${part.colours ? text : '#767676'}` +
      (part.tab ? ';writing-mode:vertical-rl' : '')
    // Where a card has its corner it takes the other.
    const side = document.querySelector(`mastflag-corner-${part.again}`)
      ? { start: 'end', end: 'start' }[part.again]
      : part.again
    corner.style.cssText =
      `position:fixed;z-index:2147482990;inset-inline-${side}:${part.tab ? 0 : 8}px;` +
      (part.tab ? 'top:40%' : 'bottom:calc(8px + var(--mastflag-under,0px))')
  }

  const seen = new MutationObserver((list) => {
    for (const m of list)
      for (const n of m.addedNodes) {
        if (!(n instanceof Element)) continue
        if (n.matches(marked)) gate(n)
        for (const e of n.querySelectorAll(marked)) gate(e)
      }
  })
  seen.observe(document.documentElement, { childList: true, subtree: true })
  // A link of the page's own asks again too.
  addEventListener('click', (e) => {
    const link = (e.target as Element | null)?.closest?.<HTMLElement>('[data-mastflag-consent]')
    if (!link) return
    e.preventDefault()
    again(link)
  })
  addEventListener('storage', (e) => {
    if (!e.key || !/^mastflag\.[^.]+$/.test(e.key)) return
    memory.read()
    // What this page knows tells nothing: it may have read what another wrote while it kept something itself.
    if (consentIn(e.oldValue) !== consentIn(e.newValue)) void page.ask()
  })
  Object.assign((window as { mastflag?: object }).mastflag!, {
    consent: {
      granted: (purpose: string) => granted.has(purpose),
      get answered() {
        return !!state?.answered
      },
      open: () => again(),
      withdraw: () => answer([], 'call'),
    },
  })
  const signal = () => (navigator as { globalPrivacyControl?: boolean }).globalPrivacyControl === true

  return {
    hold(next, standing) {
      const first = !state
      state = next
      bars = standing
      if (first && next && !next.signal && signal()) {
        // Something on the way took the header out.
        page.more['consent.signal'] = 'gpc'
        void page.ask()
      }
      apply(next?.granted ?? [])
      const notice = bars.find((b) => b.hash)
      const root = notice && page.rootOf(notice.id)
      if (root && next) {
        root.querySelector<HTMLElement>('.signal')!.hidden = !next.signal
        const mine = memory.kept.consent
        root.querySelector<HTMLElement>('.yours')!.hidden = !mine
        if (mine) {
          root.querySelector('code')!.textContent = mine.id.slice(0, 8)
          for (const box of root.querySelectorAll('input'))
            box.checked = box.disabled || next.granted.includes(box.value)
        }
      }
      control()
      if (page.quiet() || !next) return
      const { told = {} } = memory.kept
      const once = (what: string, event: object) => {
        if (told[what] === next.part.of) return
        memory.change((k) => ((k.told ??= {})[what] = next.part.of))
        record(event)
      }
      if (notice && !next.answered) once('asked', { asked: true, hash: notice.hash })
      if (next.signal && !next.answered)
        once('signal', {
          id: newID(),
          hash: next.hash,
          granted: next.rule === 'opt-in' ? [] : next.part.asked.filter((p) => !next.part.signal?.includes(p)),
          refused: next.rule === 'opt-in' ? next.part.asked : next.part.signal,
          how: 'signal',
          signal: true,
          page: page.path(),
        })
      if (memory.kept.untold?.length) void send()
    },
    act(bar, what) {
      const part = setting()
      const root = bar.hash && page.rootOf(bar.id)
      if (!root || !part) return
      const all = fine()
      if (what === 'close' && state?.rule !== 'opt-in' && part.also?.includes('closing')) answer(all, 'closing')
      if (what === 'accept' || what === 'fine') answer(all, 'button')
      if (what === 'reject') answer([], 'button')
      if (what === 'save')
        answer(
          [...root.querySelectorAll('input:checked')].map((b) => (b as HTMLInputElement).value),
          'button',
        )
      if (what === 'choose') {
        const detail = root.getElementById('detail') as HTMLElement
        detail.hidden = !detail.hidden
        root.querySelector('[data-act=choose]')!.setAttribute('aria-expanded', String(!detail.hidden))
      }
      const mine = memory.kept.consent
      if (what === 'receipt' && mine) void download(`${address}/${mine.id}`)
      if (what === 'erase' && mine)
        void fetch(`${address}/${mine.id}`, { method: 'DELETE', credentials: 'omit' }).then((r) => {
          // One that was erased before, or never kept, is not there either.
          if (!r.ok && r.status !== 404 && r.status !== 410) return
          memory.change((k) => delete k.consent)
          void page.ask()
        })
    },
  }
}

/** Removes a cookie at every path and domain at which this page could have set it. */
function expire(name: string, host: string): void {
  const steps = location.pathname.split('/').map((_, i, all) => all.slice(0, i).join('/') || '/')
  const labels = location.hostname.split('.')
  const domains = ['', host, ...labels.map((_, i) => labels.slice(i).join('.'))]
  for (const path of new Set([...steps, location.pathname]))
    for (const domain of new Set(domains))
      document.cookie = `${name}=;max-age=0;path=${path}${domain ? `;domain=${domain}` : ''}`
}

const gapCSS =
  '.gap{box-sizing:border-box;display:flex;flex-direction:column;align-items:center;justify-content:center;' +
  'gap:12px;height:100%;min-height:inherit;padding:16px;border:1px solid #767676;background:#f3f3f3;color:#1c1c1c;' +
  'text-align:center}p{margin:0;max-width:48ch}button{font:inherit;min-height:36px;padding:4px 14px;border:2px ' +
  'solid #1c1c1c;border-radius:3px;background:#fff;color:#1c1c1c;cursor:pointer}button:focus-visible{outline:3px ' +
  'solid #1c1c1c;outline-offset:2px}'
const againCSS =
  'button{font:inherit;font-size:13px;min-height:28px;padding:2px 10px;border:1px solid #767676;' +
  'border-radius:3px;background:#fff;color:#1c1c1c;cursor:pointer}button:focus-visible{outline:3px solid #1c1c1c;' +
  'outline-offset:2px}@media print{:host{display:none}}'
