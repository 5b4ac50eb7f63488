// Bars that lie in the page push it down. So that it does not jump, the room
// they took on the last view of the same page is kept free before they come.

/** Name of the element that holds the bars in the page, and of the room kept for them. */
export const holder = 'mastflag-top'

interface Room {
  /** Width of the window for which it holds, px. */
  width: number
  /** px */
  height: number
  /** When what took it changes, ms since 1970 by this machine's clock; 0 for never. */
  until: number
  /** Style that keeps the room of blocks. */
  css?: string
}

/** Where it is kept in the visitor's browser. */
export const name = (key: string) => `mastflag.${key}.room`

/** The room taken on pages, by path. */
export function rooms(key: string): Record<string, Room> {
  try {
    return JSON.parse(localStorage.getItem(name(key)) ?? '{}')
  } catch {
    return {} // Barred, or not what was written.
  }
}

/** Gives back the room that was kept for what does not come. */
export function giveBack(): void {
  document.querySelector(holder)?.remove()
  ;(document as { mastflag?: CSSStyleSheet }).mastflag?.replaceSync('')
}

/** Keeps the room free that bars took here last time, if any. */
export function reserve(key: string): void {
  const room = rooms(key)[location.pathname]
  if (!room || room.width !== innerWidth || (room.until && Date.now() >= room.until)) return
  const place = document.createElement(holder)
  place.style.cssText = `display:block;height:${room.height}px`
  document.documentElement.insertBefore(place, document.body)
  if (!room.css) return
  const sheet = new CSSStyleSheet()
  sheet.replaceSync(room.css)
  document.adoptedStyleSheets.push(sheet)
  ;(document as { mastflag?: CSSStyleSheet }).mastflag = sheet
}

/** Remembers the room that bars take on this page; 0 px forgets it. */
export function remember(key: string, height: number, until: number): void {
  try {
    const all = rooms(key)
    delete all[location.pathname]
    if (height) all[location.pathname] = { width: innerWidth, height, until }
    const kept = Object.entries(all).slice(-50)
    localStorage.setItem(name(key), JSON.stringify(Object.fromEntries(kept)))
  } catch {
    // Storage is barred: nothing is kept free next time.
  }
}
