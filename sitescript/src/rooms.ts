// Blocks in the page push what follows them down. So that it does not jump, the
// room they took on the last view of the same page is kept free by a style, which
// stands with the room of the bars and is put in by the line of the snippet.
import { name, rooms } from './reserve'

/** A block that stands, and the spot that it stands at. */
export interface Stood {
  host: HTMLElement
  at: Element
  where: string
}

/** How long room is kept where nothing else says until when, ms. */
const day = 86_400_000

/** A selector that finds an element and nothing else. */
function pathOf(e: Element): string {
  const steps: string[] = []
  for (let at: Element | null = e; at?.parentElement; at = at.parentElement) {
    const like = [...at.parentElement.children].filter((s) => s.localName === at!.localName)
    steps.unshift(`${at.localName}:nth-of-type(${like.indexOf(at) + 1})`)
  }
  return ['html', ...steps].join('>')
}

/** The style that keeps the room of blocks at their spots. */
function styleOf(blocks: Stood[]): string {
  const done = new Set<string>()
  return blocks
    .map(({ host, at, where }) => {
      const path = pathOf(at)
      if (done.has(where + path)) return ''
      done.add(where + path)
      const all = blocks.filter((b) => b.at === at && b.where === where)
      const [from, to] = [host.getBoundingClientRect(), all.at(-1)!.host.getBoundingClientRect()]
      const of = at.getBoundingClientRect()
      const gap = parseFloat(getComputedStyle(at.parentElement!).rowGap) || 0
      const px = (n: number) => `${Math.max(0, n - gap)}px`
      if (where === 'first' || where === 'last')
        return (
          `${path}::${where === 'first' ? 'before' : 'after'}{content:"";display:block;` +
          `height:${to.bottom - from.top}px;margin:${getComputedStyle(host).margin}}`
        )
      // From the element to what follows, or precedes, all that stands there.
      if (where === 'after') {
        const next = all.at(-1)!.host.nextElementSibling?.getBoundingClientRect()
        return `${path}{margin-bottom:${px((next?.top ?? to.bottom) - of.bottom)}}`
      }
      const before = host.previousElementSibling?.getBoundingClientRect()
      return `${path}{margin-top:${px(of.top - (before?.bottom ?? from.top))}}`
    })
    .join('')
}

/** Gives the room that was kept back to the blocks that stand there now. */
export function release(): void {
  ;(document as { mastflag?: CSSStyleSheet }).mastflag?.replaceSync('')
}

/** Takes down the room that blocks take on this page, beside that of the bars. Throws where storage is barred. */
export function rememberRooms(key: string, blocks: Stood[]): void {
  const all = rooms(key)
  const room = all[location.pathname] ?? { width: innerWidth, height: 0, until: Date.now() + day }
  const css = styleOf(blocks)
  if (!css) return
  localStorage.setItem(name(key), JSON.stringify({ ...all, [location.pathname]: { ...room, css } }))
}
