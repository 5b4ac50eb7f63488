// The room that blocks in the page take, as a style that keeps it free before they come.
import { pathOf } from './path'

/** A block that stands, and the spot that it stands at. */
export interface Standing {
  host: HTMLElement
  at: Element
  where: string
}

/** The next element on one side of another that takes room; none of ours. */
function nextVisible(e: Element, side: 'nextElementSibling' | 'previousElementSibling'): DOMRect | undefined {
  for (let at = e[side]; at; at = at[side])
    if (at.localName !== 'mastflag-notice' && at.getClientRects().length) return at.getBoundingClientRect()
  return
}

/** The style that keeps the room of blocks at their spots. */
export function styleOf(blocks: Standing[]): string {
  const done = new Set<string>()
  return blocks
    .map(({ host, at, where }) => {
      const path = pathOf(at)
      if (done.has(where + path)) return ''
      done.add(where + path)
      const all = blocks.filter((b) => b.at === at && b.where === where)
      const last = all.at(-1)!.host
      const [from, to] = [host.getBoundingClientRect(), last.getBoundingClientRect()]
      const of = at.getBoundingClientRect()
      const gap = parseFloat(getComputedStyle(at.parentElement!).rowGap) || 0
      const px = (n: number) => `${Math.max(0, n - gap)}px`
      if (where === 'first' || where === 'last')
        return (
          `${path}::${where === 'first' ? 'before' : 'after'}{content:"";display:block;` +
          `height:${to.bottom - from.top}px;margin:${getComputedStyle(host).margin}}`
        )
      // From the element to what follows, or precedes, all that stands there.
      if (where === 'after')
        return `${path}{margin-bottom:${px((nextVisible(last, 'nextElementSibling')?.top ?? to.bottom) - of.bottom)}}`
      return `${path}{margin-top:${px(of.top - (nextVisible(host, 'previousElementSibling')?.bottom ?? from.top))}}`
    })
    .join('')
}
