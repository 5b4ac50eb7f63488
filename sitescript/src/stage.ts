// What works a page for the administrator's stage: pointing at a spot, showing
// where slots are, a click on a notice to edit its words, the words for one visitor, a picture. Loaded
// only on a page that stands in the stage's frame.
import { fill } from './personal'
import type { Picture } from './picture'

/** What the stage asks of the page. */
type Ask =
  | { mastflag: 'point'; on: boolean }
  | { mastflag: 'slots'; on: boolean }
  | { mastflag: 'picture' }
  | { mastflag: 'write'; id: string; part?: string }
  | { mastflag: 'visitor'; facts: Record<string, unknown> }

const ours = 'mastflag-stage'

/** A short CSS selector that finds the element, and it first. */
export function selectorOf(element: Element): string {
  const first = (s: string) => document.querySelector(s) === element
  const steps: string[] = []
  for (let e: Element | null = element; e && e !== document.documentElement; e = e.parentElement) {
    const name = e.localName
    const id = e.id && !/\d{3}|:/.test(e.id) ? `#${CSS.escape(e.id)}` : ''
    const part = e
      .getAttribute('class')
      ?.split(/\s+/)
      .find((c) => /^[a-z][a-z-]*$/i.test(c))
    const like = [...(e.parentElement?.children ?? [])].filter((s) => s.localName === name)
    const nth = like.length > 1 ? `${name}:nth-of-type(${like.indexOf(e) + 1})` : name
    const tail = steps.length ? ' > ' + steps.join(' > ') : ''
    for (const step of [id, part && `${name}.${CSS.escape(part)}`, name])
      if (step && first(step + tail)) return step + tail
    steps.unshift(nth)
  }
  return steps.join(' > ')
}

/** A box over the page that lets every press through. */
function frame(at: DOMRect, label: string, colour: string): HTMLElement {
  const box = document.createElement(ours)
  box.style.cssText =
    `position:fixed;z-index:2147483600;pointer-events:none;box-sizing:border-box;left:${at.x}` +
    `px;top:${at.y}px;width:${at.width}px;height:${at.height}px;border:2px dashed ${colour};font:600 12px/18px ` +
    `system-ui,sans-serif`
  const name = document.createElement('span')
  name.style.cssText =
    `position:absolute;inset-inline-start:0;top:0;max-width:100%;overflow:hidden;padding:0 ` +
    `6px;background:${colour};color:#fff;white-space:nowrap`
  name.textContent = label
  box.append(name)
  return box
}

let boxes: HTMLElement[] = []
function clear(): void {
  for (const b of boxes) b.remove()
  boxes = []
}
function put(...list: HTMLElement[]): void {
  clear()
  boxes = list
  document.documentElement.append(...list)
}

/** Where each slot is on this window. */
function slots(): HTMLElement[] {
  const [w, h] = [document.documentElement.clientWidth, innerHeight]
  const card = Math.min(360, w - 32)
  const rtl = getComputedStyle(document.documentElement).direction === 'rtl'
  const [left, right] = [16, w - card - 16]
  const list: [string, number, number, number, number][] = [
    ['top', 0, 0, w, 48],
    ['bottom', 0, h - 48, w, 48],
    [`bottom ${rtl ? 'right' : 'left'} corner`, rtl ? right : left, h - 176, card, 112],
    [`bottom ${rtl ? 'left' : 'right'} corner`, rtl ? left : right, h - 176, card, 112],
    ['middle', (w - Math.min(560, w - 32)) / 2, h / 2 - 80, Math.min(560, w - 32), 160],
  ]
  const blocks = [...document.querySelectorAll('body mastflag-notice, body div[data-mastflag]')]
  return [
    ...list.map(([name, x, y, width, height]) => frame(new DOMRect(x, y, width, height), name, '#8a5a00')),
    ...blocks.map((b, i) => frame(b.getBoundingClientRect(), `in the page, ${i + 1}`, '#0b5a66')),
  ]
}

/** Where the words of a notice, or of a heading or a text in a block, stand. */
function wordsOf(id: string, part?: string): HTMLElement | null | undefined {
  const root = document.querySelector(`mastflag-notice[data-id="${id}"]`)?.shadowRoot
  if (part === undefined) return root?.querySelector<HTMLElement>('.words')
  const box = root?.querySelector<HTMLElement>(`[data-part="${part}"]`)
  return box?.matches('.text') ? box : box?.querySelector<HTMLElement>(':scope > :is(h2,h3,h4)')
}

/** Lets words be written where they stand; what they then are is given to `done`. */
function write(words: HTMLElement | null | undefined, done: (html: string) => void): void {
  if (!words) return
  const before = words.innerHTML
  words.contentEditable = 'true'
  words.focus()
  getSelection()?.selectAllChildren(words)
  getSelection()?.collapseToEnd()
  words.onpaste = (e) => {
    e.preventDefault()
    document.execCommand('insertText', false, e.clipboardData?.getData('text/plain'))
  }
  words.onkeydown = (e) => {
    e.stopPropagation()
    if (e.key === 'Escape' || (e.key === 'Enter' && !e.shiftKey)) {
      e.preventDefault()
      if (e.key === 'Escape') words.innerHTML = before
      words.blur()
    }
  }
  words.onblur = () => {
    words.contentEditable = 'false'
    words.onblur = words.onpaste = words.onkeydown = null
    if (words.innerHTML !== before) done(words.innerHTML)
  }
}

export function start(server: string, picture: string, ignoresRoutes: boolean, ask: () => void): void {
  const say = (message: object) => parent.postMessage(message, server)
  let pointing = false
  const sayRoute = () =>
    say({ mastflag: 'route', path: (ignoresRoutes && /^#!?\/[^?#]*/.exec(location.hash)?.[0]) || '' })

  sayRoute()
  addEventListener('hashchange', sayRoute)

  addEventListener('message', (e) => e.origin === server && e.data?.mastflag === 'refresh' && ask())
  const under = (e: Event) => {
    const at = e.target as Element
    return at.closest?.('mastflag-notice') || at === document.documentElement ? null : at
  }
  addEventListener(
    'pointermove',
    (e) => {
      const at = pointing && under(e)
      if (at) put(frame(at.getBoundingClientRect(), selectorOf(at), '#0b5a66'))
    },
    true,
  )
  addEventListener(
    'click',
    (e) => {
      if (pointing) {
        e.preventDefault()
        e.stopPropagation()
        const at = under(e)
        if (!at) return
        pointing = false
        clear()
        say({ mastflag: 'pointed', selector: selectorOf(at) })
        return
      }
      // On the stage a press on a notice means its words; links lead nowhere.
      const path = e.composedPath() as Element[]
      const notice = path.find((x) => x.localName === 'mastflag-notice')
      if (!notice) return
      const act = path.find((x) => x instanceof HTMLElement && x.dataset.act) as HTMLElement | undefined
      if (act && act.dataset.act !== 'clicked') return
      if (path.some((x) => x instanceof HTMLElement && x.dataset.event)) return
      e.preventDefault()
      e.stopPropagation()
      const words = path.some((x) => x.classList?.contains('words'))
      const part = path.find((x) => x instanceof HTMLElement && x.dataset.part) as HTMLElement | undefined
      if (path.some((x) => x instanceof HTMLElement && x.isContentEditable)) return
      const what = part ? 'part' : words || !act ? 'words' : 'link'
      say({ mastflag: 'edit', id: (notice as HTMLElement).dataset.id, part: what, name: part?.dataset.part })
    },
    true,
  )
  addEventListener('keydown', (e) => {
    if (e.key !== 'Escape' || !pointing) return
    pointing = false
    clear()
    say({ mastflag: 'pointed', selector: '' })
  })
  addEventListener('message', (e: MessageEvent<Ask>) => {
    if (e.origin !== server) return
    const ask = e.data
    if (ask?.mastflag === 'point') {
      pointing = ask.on
      clear()
    } else if (ask?.mastflag === 'slots') {
      if (ask.on) put(...slots())
      else clear()
    } else if (ask?.mastflag === 'write') {
      const { id, part } = ask
      write(wordsOf(id, part), (html) => say({ mastflag: 'words', html, part }))
    } else if (ask?.mastflag === 'visitor') {
      for (const host of document.querySelectorAll('mastflag-notice'))
        fill(host.shadowRoot, (name) => (Object.hasOwn(ask.facts, name) ? ask.facts[name] : undefined))
    } else if (ask?.mastflag === 'picture') {
      import(/* @vite-ignore */ server + picture)
        .then((m: Picture) => m.take())
        .then(
          (taken) => say({ mastflag: 'picture', taken }),
          () => say({ mastflag: 'picture' }),
        )
    }
  })
}
