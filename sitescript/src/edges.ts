// Room at the edges of the page for the bars that stand there: elements as high as the window become shorter, and what
// the site keeps at the same edge moves. It is all done by one style sheet: no element of the site's is written on, and
// without the sheet the page is as it was. What is measured is measured without the rules of that sheet that move or
// shorten elements, and before they are in place again nothing is drawn. Loaded where a bar stands at an edge.
import { pathOf } from './path'
import { setStyle } from './reserve'

/** Heights of the bars: floating at the top, in the page at its top, in the page at its end, floating there, px. */
export type Bars = [over: number, flow: number, foot: number, under: number]

export interface Edges {
  /**
   * Makes room for the bars, now and whenever their heights or the page change. False if an element of the site's
   * cannot be moved out of their way at the top.
   */
  fit(heights: () => Bars): boolean
}

/** How many elements are looked at in one go. */
const slice = 400
/** How long nothing has to happen before the page is checked again, ms. */
const pause = 200
/** What an element is placed by. */
const attributeFilter = ['class', 'style']
/** So deep elements of the window's height are looked for. */
const deepest = 8

const isOurs = (e: Element) => e.localName.startsWith('mastflag-')
const px = (length: string) => parseFloat(length) || 0
const styleOf = (e: Element) => getComputedStyle(e)

/** Whether what is fixed or absolute is placed in an ancestor, not in the window or the page (CSS Transforms 1 §2). */
function isInOwnFrame(e: Element, fixed: boolean): boolean {
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

/**
 * Whether a distance is specified: computed styles have a length in any case. A browser that cannot tell is asked where
 * the element would be without it, by one more rule.
 */
function isSpecified(e: Element, side: 'top' | 'bottom', withRule: (css: string) => void): boolean {
  const all = (e as { computedStyleMap?(): StylePropertyMapReadOnly }).computedStyleMap?.()
  if (all) return String(all.get(side)) !== 'auto'
  const before = e.getBoundingClientRect()
  withRule(`${pathOf(e)}{${side}:auto!important}`)
  const after = e.getBoundingClientRect()
  withRule('')
  return Math.abs(before.top - after.top) + Math.abs(before.bottom - after.bottom) > 0.5
}

/** `remember` keeps the style that keeps the room on the next view of this page. */
export function start(page: { remember(css: string): void }): Edges {
  let heights!: () => Bars
  /** What of the site's is fixed, sticky or absolute, and how each is. */
  const positioned = new Map<HTMLElement, string>()
  let timer = 0
  /** What was last remembered, and for which address. */
  let remembered = ''
  /** How many elements there were when all were looked at. */
  let elementCount = 0
  /** The site's own padding: for what is scrolled to, at the top and at the bottom, and of the page itself, px. */
  let sitePadding: number[] | undefined

  /** Takes down how an element is positioned, if at all; whether that is new. */
  function record(e: Element): boolean {
    const { position } = styleOf(e)
    const element = e as HTMLElement
    if (!/fixed|sticky|absolute/.test(position) || isOurs(e)) return positioned.delete(element)
    if (positioned.get(element) === position) return false
    positioned.set(element, position)
    attributes.observe(e, { attributeFilter })
    return true
  }

  /** Looks at what is positioned, and at the elements that come first and last; whether any of it is new. */
  function findPositioned(): boolean {
    const all = document.body.getElementsByTagName('*')
    const likely = [document.body, ...positioned.keys()] as Element[]
    for (let i = 0; i < all.length && i < slice; i++) likely.push(all[i]!, all[all.length - 1 - i]!)
    let isNew = false
    for (const e of likely) if (record(e)) isNew = true
    return isNew
  }

  /** Looks at every element, a few at a time, when the browser has nothing else to do. */
  function scanAll(): void {
    const all = [...document.body.getElementsByTagName('*')]
    elementCount = all.length
    let isNew = false
    const whenIdle: (then: () => void) => void =
      'requestIdleCallback' in window
        ? (then) => requestIdleCallback(then, { timeout: 1000 })
        : (then) => setTimeout(then)
    const scanSlice = () => {
      for (const e of all.splice(-slice)) if (record(e)) isNew = true
      if (all.length) whenIdle(scanSlice)
      else if (isNew) refit()
    }
    whenIdle(scanSlice)
  }

  /** Styles that move an element, in which the custom property is how far the bars reach from the top now. */
  function rulesOf(
    e: HTMLElement,
    position: string,
    [over, flow, , under]: Bars,
    withRule: (css: string) => void,
  ): string {
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
    if (isInOwnFrame(e, fixed)) return ''
    const byTop = isSpecified(e, 'top', withRule)
    const byBottom = isSpecified(e, 'bottom', withRule)
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
    const bars = heights()
    const [over, flow, foot, under] = bars
    const total = over + flow + foot + under
    if (!total) {
      sitePadding = undefined
      page.remember('')
      return true
    }
    findPositioned()
    if (!sitePadding) {
      setStyle('edges', '')
      const s = styleOf(document.documentElement)
      sitePadding = [s.scrollPaddingTop, s.scrollPaddingBottom, s.paddingTop, s.paddingBottom].map(px)
    }
    const [top, bottom, head, tail] = sitePadding as [number, number, number, number]
    /** With so much kept free at the top, and so much of the bars in sight there. */
    const room = (kept: number, inSight: number) =>
      `html{--mastflag-top:${inSight}px;--mastflag-under:${under}px;scroll-padding-top:${top + over}px!important;` +
      `scroll-padding-bottom:${bottom + under}px!important;padding-top:${head + kept}px!important;` +
      `padding-bottom:${tail + under}px!important;box-sizing:border-box!important}`
    const now = room(over, over + Math.max(0, flow - scrollY))
    // What moves is measured where it would be without, and does not glide there.
    const withoutTransitions = [...positioned.keys()]
      .map((e) => (e.isConnected ? `${pathOf(e)}{transition:none!important}` : ''))
      .join('')
    const withRule = (css: string) => setStyle('edges', now + withoutTransitions + css)
    withRule('')
    let isBlocked = false
    let rules = ''
    for (const [e, position] of positioned) {
      if (!e.isConnected) positioned.delete(e)
      else {
        const moved = rulesOf(e, position, bars, withRule)
        if (moved) rules += `${pathOf(e)}{${moved}}`
        // This alone takes precedence over the rule.
        if (/(^|;)top/.test(moved) && e.style.getPropertyPriority('top')) isBlocked = true
      }
    }
    const height = `height:calc(100vh - ${total}px)!important;min-height:0!important;max-height:none!important`
    for (const e of shells(bars, total)) rules += `${pathOf(e)}{${height}}`
    if (withoutTransitions) {
      setStyle('edges', now + rules + withoutTransitions)
      void document.body.offsetHeight
    }
    setStyle('edges', now + rules)
    const next = room(over + flow, over + flow) + rules
    if (remembered !== location.href + next) {
      remembered = location.href + next
      page.remember(next)
    }
    return !isBlocked
  }

  /** Whether the page is fitted anew at the next check whatever is found. */
  let isDue = false
  /**
   * Plans a check once nothing has happened for so long, ms. One timer serves all causes, and what one of them needs
   * stays due until the check, however often others put it off.
   */
  function plan(ms: number, due: boolean): void {
    isDue ||= due
    clearTimeout(timer)
    timer = setTimeout(check, ms)
  }
  function check(): void {
    // A page that only changes its words has as many elements as before.
    const isOther = document.body.getElementsByTagName('*').length !== elementCount
    if (isDue || isOther || findPositioned()) refit()
    isDue = false
    if (isOther) scanAll()
  }
  const attributes = new MutationObserver(() => plan(50, true))

  /** Looks out for what changes from now on. */
  function watch(): void {
    for (const e of [document.documentElement, document.body]) attributes.observe(e, { attributeFilter })
    new MutationObserver(() => plan(pause, false)).observe(document.documentElement, { childList: true, subtree: true })
    addEventListener('resize', () => {
      sitePadding = undefined // it may be another at this width
      plan(50, true)
    })
    addEventListener(
      'scroll',
      () => {
        const [over, flow] = heights()
        if (flow) setInSight(over + Math.max(0, flow - scrollY))
        plan(pause, false)
      },
      { passive: true },
    )
    if (document.readyState === 'complete') scanAll()
    else addEventListener('load', scanAll)
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
    if (scrollY && at > -1 && at <= sitePadding![0]! + over + flow + 1) target.scrollIntoView({ behavior: 'instant' })
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
