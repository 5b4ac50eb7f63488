// Room at the edges of the page for the bars that stand there: what is as high as the window is as much less high, and
// what the site keeps at the same edge moves by as much. All of it is done by a style sheet of its own: nothing of the
// site's is written on, and without the sheet the page is as it was. Loaded where a bar stands at an edge.
import { pathOf } from './path'
import { setStyle } from './reserve'

/** Heights of the bars: floating at the top, in the page at its top, in the page at its end, floating there, px. */
export type Bars = [over: number, flow: number, foot: number, under: number]

export interface Edges {
  /**
   * Makes room for the bars, now and whenever their heights or the page change. False if something of the site's stays
   * at the top all the same, and would be covered.
   */
  fit(heights: () => Bars): boolean
}

/** How many elements are looked at in one go. */
const slice = 400
/** How long the page has to be left alone before it is looked at again, ms. */
const pause = 200
/** So deep elements of the window's height are looked for. */
const deepest = 8

const isOurs = (e: Element) => e.localName.startsWith('mastflag-')
const px = (length: string) => parseFloat(length) || 0
const styleOf = (e: Element) => getComputedStyle(e)

/** Whether what is fixed or absolute is placed in an ancestor, not in the window or the page (CSS Transforms 1 §2). */
function isHeld(e: Element, fixed: boolean): boolean {
  for (let at = e.parentElement; at; at = at.parentElement) {
    const s = styleOf(at)
    if (
      [s.transform, s.translate, s.scale, s.rotate, s.perspective, s.filter, s.backdropFilter].some(
        (v) => v && v !== 'none',
      ) ||
      /paint|layout|strict|content/.test(s.contain) ||
      /transform|perspective|filter/.test(s.willChange) ||
      (!fixed && s.position !== 'static' && at.parentElement)
    )
      return true
  }
  return false
}

/** Whether it sticks to the window, and not to a part of the page that scrolls by itself. */
function sticksToWindow(e: Element): boolean {
  for (let at = e.parentElement; at?.parentElement?.parentElement; at = at.parentElement)
    if (!/visible|clip/.test(styleOf(at).overflowY)) return false
  return true
}

/** Whether a distance is said at all: computed styles have a length for it all the same. Some browsers do not tell. */
function isSaid(e: Element, side: 'top' | 'bottom'): boolean | undefined {
  const all = (e as { computedStyleMap?(): StylePropertyMapReadOnly }).computedStyleMap?.()
  return all && String(all.get(side)) !== 'auto'
}

export function start(page: { room(css: string): void }): Edges {
  let heights!: () => Bars
  /** What is fixed, sticky or absolute, and how each is. */
  const placed = new Map<HTMLElement, string>()
  let timer = 0
  let last = ''
  /** How many elements there were when all were looked at. */
  let elements = 0
  /** The page's own padding: for what is scrolled to, at the top and at the bottom, and of the page itself, px. */
  let own: number[] | undefined

  /** Takes down how an element is placed, if otherwise than in the flow; whether that is new. */
  function note(e: Element): boolean {
    const { position } = styleOf(e)
    const is = e as HTMLElement
    if (!/fixed|sticky|absolute/.test(position) || isOurs(e)) return placed.delete(is)
    if (placed.get(is) === position) return false
    placed.set(is, position)
    attributes.observe(e, { attributeFilter: ['class', 'style'] })
    return true
  }

  /** Looks at what is placed, and at the elements that come first and last; whether any of it is new. */
  function look(): boolean {
    const all = document.body.getElementsByTagName('*')
    const some = [document.body, ...placed.keys()] as Element[]
    for (let i = 0; i < all.length && i < slice; i++) some.push(all[i]!, all[all.length - 1 - i]!)
    let isNew = false
    for (const e of some) if (note(e)) isNew = true
    return isNew
  }

  /** Looks at every element, a few at a time, when the browser has nothing else to do. */
  function lookAtAll(): void {
    const all = [...document.body.getElementsByTagName('*')]
    elements = all.length
    let isNew = false
    const idle: (then: () => void) => void =
      'requestIdleCallback' in window
        ? (then) => requestIdleCallback(then, { timeout: 1000 })
        : (then) => setTimeout(then)
    const some = () => {
      for (const e of all.splice(-slice)) if (note(e)) isNew = true
      if (all.length) idle(some)
      else if (isNew) refit()
    }
    idle(some)
  }

  /** Styles that move an element, in which the custom property is how far the bars reach from the top now. */
  function rulesOf(e: HTMLElement, position: string, [over, flow, , under]: Bars): string {
    const s = styleOf(e)
    const box = e.getBoundingClientRect()
    const [top, bottom] = [px(s.top), px(s.bottom)]
    const rule = (name: string, value: string) => `${name}:${value}!important;`
    if (position === 'sticky') {
      if (!sticksToWindow(e)) return ''
      const isTop = s.top !== 'auto'
      const left = innerHeight - over - under
      return (
        (isTop && over ? rule('top', `${top + over}px`) : '') +
        (s.bottom !== 'auto' && under ? rule('bottom', `${bottom + under}px`) : '') +
        (isTop && top + box.height > left && top + box.height <= innerHeight + 1
          ? rule('max-height', `calc(100vh - ${top + over + under}px)`)
          : '')
      )
    }
    const fixed = position === 'fixed'
    if (isHeld(e, fixed)) return ''
    const byTop = isSaid(e, 'top') ?? top <= bottom
    const byBottom = isSaid(e, 'bottom') ?? (!byTop || bottom <= 0)
    // Placed by neither it moves with the page, but for what scrolls away.
    if (!byTop && !byBottom)
      return fixed && flow ? rule('top', `calc(${box.top - over - flow}px + var(--mastflag-top))`) : ''
    const reach = fixed ? 'var(--mastflag-top)' : `${over + flow}px`
    // What hides above the window stays there.
    if (byTop && top + box.height <= 0) return ''
    return (
      (byTop ? rule('top', `calc(${top}px + ${reach})`) : '') +
      (byBottom && under && (fixed || byTop) ? rule('bottom', `${bottom + under}px`) : '') +
      (byTop && top + box.height <= innerHeight + 1 && top + box.height > innerHeight - over - flow - under
        ? rule('max-height', `calc(100vh - ${top + under}px - ${reach})`)
        : '')
    )
  }

  /** Elements as high as the window, or as what is left of it, in a page that is no higher than that. */
  function shells([over, , , under]: Bars, total: number): HTMLElement[] {
    if (document.documentElement.scrollHeight > innerHeight + total + 1) return []
    const found: HTMLElement[] = []
    const into = (e: HTMLElement, depth: number) => {
      const { height } = e.getBoundingClientRect()
      if (isOurs(e) || [innerHeight, innerHeight - over - under].every((h) => Math.abs(height - h) > 1)) return
      if (!/static|relative/.test(styleOf(e).position)) return
      found.push(e)
      if (depth < deepest) for (const c of [...e.children].slice(0, 50)) into(c as HTMLElement, depth + 1)
    }
    into(document.body, 0)
    return found
  }

  /** Makes room as things are now. */
  function refit(): boolean {
    clearTimeout(timer)
    const bars = heights()
    const [over, flow, foot, under] = bars
    const total = over + flow + foot + under
    if (!total) {
      setStyle('edges', '')
      page.room('')
      return true
    }
    look()
    if (!own) {
      setStyle('edges', '')
      const s = styleOf(document.documentElement)
      own = [s.scrollPaddingTop, s.scrollPaddingBottom, s.paddingTop, s.paddingBottom].map(px)
    }
    const [top, bottom, head, tail] = own as [number, number, number, number]
    /** With so much kept free at the top, and so much of the bars in sight there. */
    const room = (kept: number, inSight: number) =>
      `html{--mastflag-top:${inSight}px;--mastflag-under:${under}px;scroll-padding-top:${top + over}px!important;` +
      `scroll-padding-bottom:${bottom + under}px!important;padding-top:${head + kept}px!important;` +
      `padding-bottom:${tail + under}px!important;box-sizing:border-box!important}`
    const now = room(over, over + Math.max(0, flow - scrollY))
    // What moves is measured where it would be without, and does not glide there.
    const still = [...placed.keys()]
      .map((e) => (e.isConnected ? `${pathOf(e)}{transition:none!important}` : ''))
      .join('')
    setStyle('edges', now + still)
    let stays = false
    let rules = ''
    for (const [e, position] of placed) {
      if (!e.isConnected) placed.delete(e)
      else {
        const moved = rulesOf(e, position, bars)
        if (moved) rules += `${pathOf(e)}{${moved}}`
        // Only this goes before what a style sheet says.
        if (/(^|;)top/.test(moved) && e.style.getPropertyPriority('top')) stays = true
      }
    }
    const height = `height:calc(100vh - ${total}px)!important;min-height:0!important;max-height:none!important`
    for (const e of shells(bars, total)) rules += `${pathOf(e)}{${height}}`
    if (still) {
      setStyle('edges', now + rules + still)
      void document.body.offsetHeight
    }
    setStyle('edges', now + rules)
    if (last !== rules + bars.join()) {
      last = rules + bars.join()
      page.room(room(over + flow, over + flow) + rules)
    }
    return !stays
  }

  const later = (how: () => void, ms: number) => {
    clearTimeout(timer)
    timer = setTimeout(how, ms)
  }
  const attributes = new MutationObserver(() => later(refit, 50))

  /** Looks out for what changes from now on. */
  function watch(): void {
    attributes.observe(document.documentElement, { attributeFilter: ['class', 'style'] })
    attributes.observe(document.body, { attributeFilter: ['class', 'style'] })
    // What only changes its words moves nothing.
    const changed = () => {
      if (document.body.getElementsByTagName('*').length === elements) return look() && refit()
      refit()
      lookAtAll()
    }
    new MutationObserver(() => later(changed, pause)).observe(document.documentElement, {
      childList: true,
      subtree: true,
    })
    addEventListener('resize', () => later(refit, 50))
    const passive = { passive: true }
    addEventListener(
      'scroll',
      () => {
        const [over, flow] = heights()
        if (flow) setInSight(over + Math.max(0, flow - scrollY))
        later(() => look() && refit(), pause)
      },
      passive,
    )
    if (document.readyState === 'complete') lookAtAll()
    else addEventListener('load', lookAtAll)
  }

  /** How far the bars reach from the top of the window now. */
  function setInSight(height: number): void {
    const [rule] = (document as { mastflag?: { edges?: CSSStyleSheet } }).mastflag?.edges?.cssRules ?? []
    ;(rule as CSSStyleRule | undefined)?.style.setProperty('--mastflag-top', `${height}px`)
  }

  /** What the address names lies below the bars, where the browser went to it before they came. */
  function showTarget(): void {
    const target = location.hash && document.querySelector(':target')
    if (!target) return
    const [over, flow] = heights()
    const at = target.getBoundingClientRect().top
    if (scrollY && at > -1 && at <= own![0]! + over + flow + 1) target.scrollIntoView({ behavior: 'instant' })
  }

  return {
    fit(next) {
      const first = !heights
      heights = next
      const moved = refit()
      if (first) {
        watch()
        showTarget()
      }
      return moved
    },
  }
}
