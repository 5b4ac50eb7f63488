// The guard: it holds back what a visitor has not agreed to, from the first line of the page on, before the program has
// answered. Until it knows what is to be held it holds what other hosts have; then it lets go what may go ahead, in
// order. What is held stands in the page like what is marked by hand: `type="text/plain"` or `data-src`, with
// `data-purpose`. Part of the line in the page, so it is short.
import { isName, purposeOf, type What } from './holds'
import type { Holds } from './shapes'

export interface Guard {
  /** Purposes of which something went ahead on this page. */
  ran: Set<string>
  /** What it holds. */
  held: ReadonlySet<Element>
  /** What holds from now on, and what may go ahead; without a list nothing is held. It is kept for the next page. */
  know(holds: Holds | undefined, granted: string[], keep?: boolean): void
  /** Nobody answers: what is not known to need an answer goes ahead. */
  giveUp(): void
}

/** A function of the browser's; called without arguments it gets those of the call. */
type Native = (...of: unknown[]) => unknown
/** What is done in its place: with it, what it was called on, and its arguments. */
type Stead = (native: Native, self: never, of: unknown[]) => unknown

/** For so long what is known is taken for what is so, ms. */
const day = 864e5
const whats: Record<string, What> = { script: 'script', iframe: 'frame', img: 'image' }
/** All of these, as a selector. */
const any = 'script,iframe,img'
/** The tag that begins one of these. */
const tag = /<(script|iframe|img)\b("[^"]*"|'[^']*'|[^"'>])*>/gi
const isScript = (e: Element): e is HTMLScriptElement => e.localName === 'script'
const isRunnable = (type: string) => /^$|module|script/i.test(type)

function replace(at: object, methods: string, by: Stead): void {
  for (const m of methods.split(' ')) {
    const all = at as Record<string, (this: unknown, ...of: unknown[]) => unknown>
    const native = all[m]
    if (native)
      all[m] = function (...of) {
        return by((...next) => native.apply(this, next.length ? next : of), this as never, of)
      }
  }
}
function replaceSetter(at: object, property: string, by: Stead): void {
  const set = Object.getOwnPropertyDescriptor(at, property)?.set
  if (set)
    Object.defineProperty(at, property, {
      set(...of) {
        by((v) => set.call(this, v), this as never, of)
      },
    })
}

/** `server` is the program's own host; `strict` is true where what is held stays held if nobody answers. */
export function guard(key: string, server: string, strict: string): Guard {
  const name = `mastflag.${key}.guard`
  let list: Holds | null | undefined
  let granted: string[] = []
  let isKnown = false
  /** Comes true once it is known what is to be held. */
  let begin!: (v?: unknown) => void
  const known = new Promise((then) => (begin = then))
  /** What is held; the type or address that was taken from it stands beside, where `kept` says. */
  const held = new Set<Element>()
  const kept = (e: Element) => (isScript(e) ? 'data-type' : 'data-src')
  /** Scripts that a script has made: they run whenever they have come. */
  const dynamic = new WeakSet<Element>()
  const ran = new Set<string>()

  /** The purpose that stands in the way of something, '' if none does. */
  function inTheWay(what: What, subject: unknown): string {
    try {
      if (isKnown && !list) return ''
      const { rows = [], own = [] } = list ?? {}
      const all = { rows, own: [location.hostname, server, ...own] }
      const text = String(subject)
      const purpose = purposeOf(all, what, isName(what) ? text : new URL(text, document.baseURI).href)
      if (!purpose) return ''
      if (!granted.includes(purpose)) return purpose
      ran.add(purpose)
    } catch {
      // No address.
    }
    return ''
  }

  /** Holds an element back if it is to be, with the address that it is about to get, if any; whether it gets none. */
  function hold(e: Element, next?: unknown): boolean {
    const what = whats[e.localName]
    const mark = e.getAttribute('data-purpose')
    // Held in HTML that was put in before it was known what is to be.
    if (what && mark === '?') held.add(e)
    const address = next ?? e.getAttribute('src')
    const purpose = what && !mark && address && !(isScript(e) && !isRunnable(e.type)) && inTheWay(what, address)
    if (!purpose) return false
    held.add(e)
    e.setAttribute('data-purpose', purpose)
    e.setAttribute(kept(e), isScript(e) ? e.type : String(address))
    if (isScript(e)) e.type = 'text/plain'
    else {
      e.removeAttribute('src')
      // What is on its way ends with the place that it was for.
      e.replaceWith(e)
    }
    return !isScript(e)
  }
  /** Looks through what comes to the page. */
  const look = (n: unknown) => {
    if (n instanceof Element) hold(n)
    for (const e of (n as Partial<Element> | null)?.querySelectorAll?.(any) ?? []) hold(e)
  }

  /** Scripts wait for each other as on a page that holds nothing. */
  let line: Promise<unknown> = Promise.resolve()
  function letGo(e: Element): void {
    const run = () => {
      const was = e.getAttribute(kept(e))!
      held.delete(e)
      e.removeAttribute('data-purpose')
      e.removeAttribute(kept(e))
      e.setAttribute(isScript(e) ? 'type' : 'src', was)
      if (!isScript(e) || !e.isConnected) return
      if (!isFree) e.async = false
      const done = new Promise((then) => ['load', 'error'].forEach((x) => e.addEventListener(x, then)))
      // It was never begun: it is when it comes to the page anew.
      e.replaceWith(e)
      return done
    }
    const isFree = !isScript(e) || !e.isConnected || dynamic.has(e) || e.hasAttribute('async')
    if (isFree) void run()
    else line = line.then(run)
  }
  /** Lets go what may go ahead now, and says of the rest what it needs. */
  function sift(): void {
    const free = [...held].filter((e) => {
      const purpose = inTheWay(whats[e.localName]!, e.getAttribute(isScript(e) ? 'src' : 'data-src'))
      if (purpose) e.setAttribute('data-purpose', purpose)
      return !purpose
    })
    const isLate = (e: Element) => +((e as HTMLScriptElement).defer || e.getAttribute('data-type') === 'module')
    free.sort((a, b) => isLate(a) - isLate(b)).forEach(letGo)
  }

  const { prototype: element } = Element
  /** What scripts put into the page is looked through before it is there. */
  const insert: Stead = (native, _, of) => {
    for (const n of of) {
      if (n instanceof Element && !held.has(n)) dynamic.add(n)
      look(n)
    }
    return native()
  }
  replace(Node.prototype, 'appendChild insertBefore replaceChild', insert)
  replace(element, 'append prepend before after replaceWith replaceChildren insertAdjacentElement', insert)
  replace(DocumentFragment.prototype, 'append prepend replaceChildren', insert)
  replace(Range.prototype, 'insertNode', insert)
  for (const { prototype } of [HTMLScriptElement, HTMLIFrameElement, HTMLImageElement])
    replaceSetter(prototype, 'src', (native, e, [v]) => hold(e, v) || native(v))
  replace(element, 'setAttribute', (native, e, [n, v]) => (n !== 'src' || held.has(e) || !hold(e, v) ? native() : 0))

  const template = document.createElement('template')
  const parse = Object.getOwnPropertyDescriptor(element, 'innerHTML')!.set!
  /** HTML in which what is to be held is held. */
  const clean = (html: unknown) =>
    typeof html === 'string'
      ? html.replace(tag, (all) => {
          parse.call(template, all)
          const e = template.content.firstElementChild
          if (e) hold(e)
          return held.delete(e!) ? e!.outerHTML.replace(/<\/\w+>$/, '') : all
        })
      : html
  const write: Stead = (native, _, of) => native(...of.map(clean))
  for (const at of [element, ShadowRoot.prototype]) replaceSetter(at, 'innerHTML', write)
  replaceSetter(element, 'outerHTML', write)
  replace(element, 'insertAdjacentHTML', write)
  replace(Document.prototype, 'write writeln', write)

  const refuses = (address: unknown) => !!inTheWay('request', address)
  replace(window, 'fetch', async (native, _, [input]) => {
    const address = (input as Request)?.url ?? input
    if (refuses(address)) await known
    if (refuses(address)) throw TypeError('Held back')
    return native()
  })
  replace(Navigator.prototype, 'sendBeacon', (native, _, [address]) => {
    if (!refuses(address)) return native()
    void known.then(() => refuses(address) || native())
    return true
  })
  const asked = new WeakMap<object, unknown>()
  const { prototype: xhr } = XMLHttpRequest
  replace(xhr, 'open', (native, x, [, address]) => {
    asked.set(x, address)
    native()
  })
  replace(xhr, 'send', (native, x: XMLHttpRequest) => {
    const address = asked.get(x)
    if (!refuses(address)) return native()
    void known.then(() => (refuses(address) ? x.dispatchEvent(new ProgressEvent('error')) : native()))
  })
  for (const c of ['WebSocket', 'EventSource']) {
    const all = window as unknown as Record<string, new () => object>
    if (all[c])
      all[c] = new Proxy(all[c], {
        construct(to, of, as) {
          if (isKnown && refuses(of[0])) throw TypeError('Held back')
          return Reflect.construct(to, of, as) as object
        },
      })
  }
  replaceSetter(Document.prototype, 'cookie', (native, _, [v]) => {
    const text = String(v)
    return /;\s*max-age=(-|0;|0$)/i.test(text) || !inTheWay('cookie', text.split('=')[0]!.trim()) ? native(v) : 0
  })
  replace(Storage.prototype, 'setItem', (native, _, [k]) => (inTheWay('storage', k) ? 0 : native()))

  new MutationObserver((all) => {
    for (const m of all) m.addedNodes.forEach(look)
  }).observe(document, { childList: true, subtree: true })

  function know(holds: Holds | null | undefined, next: string[], keep?: boolean): void {
    list = holds
    granted = next
    isKnown = true
    begin()
    try {
      if (keep) localStorage[name] = JSON.stringify([holds, next, Date.now()])
    } catch {
      // Barred: the next page waits for the answer again.
    }
    sift()
  }
  try {
    const [holds, next, at] = JSON.parse(localStorage[name] as string) as [Holds | null, string[], number]
    // What was agreed to runs out.
    if (Date.now() - at < day) know(holds, next)
  } catch {
    // Not known yet.
  }
  return {
    ran,
    held,
    know,
    giveUp: () => isKnown || strict === 'true' || know(null, []),
  }
}
