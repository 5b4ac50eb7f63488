// Titles in the tab of a visitor who is elsewhere, in turn, with an icon and a sound; once they
// are back, the page's own title and icon, exactly. Loaded where a notice has them.
import type { Bar } from './shapes'
import { play } from './sound'
import type { Page, Special } from './ways'

export function start(page: Page): Special {
  let bar: Bar | undefined
  /** The page's own title, while another stands in its place; as the site has changed it meanwhile. */
  let siteTitle: string | undefined
  let ownTitle = ''
  let timer = 0
  let turn = 0
  /** The page's own icons, taken out of its head, each before what it stood before; and the one in their place. */
  let icons: [HTMLLinkElement, Node | null][] = []
  let ownIcon: HTMLLinkElement | undefined

  const titles = () =>
    [...(page.rootOf(bar!.id)?.querySelectorAll('.words p') ?? [])].flatMap((p) => {
      const words = p.cloneNode(true) as HTMLElement
      words.querySelectorAll('[hidden],.unseen').forEach((e) => e.remove())
      const said = words.textContent!.replace(/\s+/g, ' ').trim()
      return said && !p.closest('[hidden]') ? [said] : []
    })

  // A page that counts messages in its title goes on doing so: what it writes is what comes back.
  const watch = new MutationObserver(() => {
    if (siteTitle === undefined || document.title === ownTitle) return
    siteTitle = document.title
    if (document.hidden) write(ownTitle)
  })
  function write(said: string): void {
    ownTitle = said
    document.title = said
  }

  function next(): void {
    const list = bar ? titles() : []
    if (!list.length || !document.hidden) return
    if (siteTitle === undefined) {
      siteTitle = document.title
      watch.observe(document.head, { childList: true, subtree: true, characterData: true })
      icon()
      if (bar!.sound && !page.quiet()) play(bar!.sound)
    }
    write(list[turn++ % list.length]!)
    timer = setTimeout(next, bar!.tab!.gap)
  }

  function icon(): void {
    if (!bar!.tab!.icon) return
    icons = [...document.head.querySelectorAll<HTMLLinkElement>('link[rel~=icon]')].map((l) => [l, l.nextSibling])
    for (const [link] of icons) link.remove()
    ownIcon = document.createElement('link')
    ownIcon.rel = 'icon'
    ownIcon.href = bar!.tab!.icon
    document.head.append(ownIcon)
  }

  function restore(): void {
    clearTimeout(timer)
    turn = 0
    if (siteTitle === undefined) return
    watch.disconnect()
    document.title = siteTitle
    siteTitle = undefined
    ownIcon?.remove()
    for (const [link, before] of icons.reverse())
      document.head.insertBefore(link, before?.parentNode === document.head ? before : null)
    icons = []
  }

  function wait(): void {
    restore()
    if (bar) timer = setTimeout(next, bar.tab!.first)
  }
  addEventListener('visibilitychange', () => {
    if (document.hidden) wait()
    else restore()
  })
  return {
    placed(bars: Bar[]): void {
      const found = bars.find((b) => b.tab)
      if (found?.id === bar?.id && found?.html === bar?.html) return
      restore()
      bar = found
      if (bar && document.hidden) wait()
    },
  }
}
