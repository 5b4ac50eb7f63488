// Blocks in the page push what follows them down. So that it does not jump, the
// room they took on the last view of the same page is kept free while the page is
// read, at the same spots.

/** Name of the element that keeps the room of a block. */
export const kept = 'mastflag-room'

interface Room {
  selector: string
  where: string
  /** px, with its margins in CSS */
  height: number
  margin: string
}

interface View {
  /** Width of the window for which they hold, px. */
  width: number
  /** When they were taken down, ms since 1970 by this machine's clock. */
  at: number
  rooms: Room[]
}

/** How long what was taken down counts, ms. */
const day = 86_400_000
/** How long room is kept for what does not come, ms. */
const patience = 5_000

const name = (key: string) => `mastflag.${key}.rooms`

function views(key: string): Record<string, View> {
  try {
    return JSON.parse(localStorage.getItem(name(key)) ?? '{}')
  } catch {
    return {} // Barred, or not what was written.
  }
}

/** Puts an element at a spot, behind what stands there already. */
export function insert(e: HTMLElement, at: Element, where: string, last?: Element): void {
  if (last) last.after(e)
  else if (where === 'first') at.prepend(e)
  else if (where === 'last') at.append(e)
  else if (where === 'after') at.after(e)
  else at.before(e)
}

/** Keeps room free for the blocks of this page's last view, as their spots are read. */
export function keepRooms(key: string): void {
  const view = views(key)[location.pathname]
  if (!view || view.width !== innerWidth || Date.now() - view.at > day) return
  const places = view.rooms.map((r) => {
    const place = document.createElement(kept)
    place.style.cssText = `display:block;height:${r.height}px;margin:${r.margin}`
    return { ...r, place }
  })
  const put = () => {
    const last: Record<string, Element> = {}
    for (const { selector, where, place } of places) {
      const at = document.querySelector(selector)
      const spot = where + selector
      // What stands last goes on doing so while its element is still read.
      if (at && (!place.parentNode || (where === 'last' && at.lastElementChild !== place))) insert(place, at, where, last[spot])
      last[spot] = place
    }
  }
  const reading = new MutationObserver(put)
  reading.observe(document, { childList: true, subtree: true })
  addEventListener('DOMContentLoaded', () => reading.disconnect())
  setTimeout(() => {
    if (!places.some((p) => p.place.isConnected)) return
    for (const { place } of places) place.remove()
    rememberRooms(key, [])
  }, patience)
}

/** Takes down the room that blocks take on this page; none forgets it. */
export function rememberRooms(key: string, blocks: { host: HTMLElement; selector: string; where: string }[]): void {
  try {
    const all = views(key)
    delete all[location.pathname]
    if (blocks.length)
      all[location.pathname] = {
        width: innerWidth,
        at: Date.now(),
        rooms: blocks.map(({ host, selector, where }) => ({ selector, where, height: host.offsetHeight, margin: getComputedStyle(host).margin })),
      }
    localStorage.setItem(name(key), JSON.stringify(Object.fromEntries(Object.entries(all).slice(-50))))
  } catch {
    // Storage is barred: nothing is kept free next time.
  }
}
