// What stands at the edges of the page and in it pushes the rest. So that the page does not jump, the room that it took
// on the last view of the same page is kept free before it comes: by style alone, which no framework sees, and which
// goes without a trace. Part of the line in the page, and of the script.

import type { Guard } from './guard'

/** Styles that keep room free: at the edges of the page, and in it. */
export type Area = 'edges' | 'blocks'

interface Room {
  /** Width of the window for which it holds, px. */
  width: number
  /** When what took it changes, ms since 1970 by this machine's clock; within a day. */
  until: number
  edges?: string
  blocks?: string
}

/** How long room is kept for what does not come, ms. */
export const patience = 2_000
/** So many pages are remembered. */
const most = 50
/** For so long, ms. */
const day = 86_400_000

/** Where it is kept in the visitor's browser. */
const name = (key: string) => `mastflag.${key}.room`
/** The address that a page is kept by. */
const page = () => location.pathname + location.search

/** The room taken on pages, by address. */
function rooms(key: string): Record<string, Room> {
  try {
    return JSON.parse(localStorage.getItem(name(key)) ?? '{}')
  } catch {
    return {} // Barred, or not what was written.
  }
}

/** The style sheets that keep room free on this page, and its guard: the line in it and the script use the same. */
type Sheets = Partial<Record<Area, CSSStyleSheet>> & { guard?: Guard | undefined }
export const sheets = () => ((document as { mastflag?: Sheets }).mastflag ??= {})

/** Has a style hold on this page, in place of that of before. */
export function setStyle(area: Area, css: string): void {
  let sheet = sheets()[area]
  if (!sheet) {
    if (!css) return
    sheet = sheets()[area] = new CSSStyleSheet()
  }
  sheet.replaceSync(css)
  // A page may have put another list in place of the one with this sheet.
  if (!document.adoptedStyleSheets.includes(sheet)) document.adoptedStyleSheets.push(sheet)
}

/** Gives back the room that was kept for what does not come. */
export function giveBack(): void {
  for (const area of ['edges', 'blocks'] as const) setStyle(area, '')
}

/** Keeps the room free that was taken here last time, if any. */
export function reserve(key: string): void {
  const room = rooms(key)[page()]
  if (!room || room.width !== innerWidth || Date.now() >= room.until) return
  for (const area of ['edges', 'blocks'] as const) setStyle(area, room[area] ?? '')
}

/** Remembers the style that keeps the room on this page; "" forgets it. It holds until then, ms; 0 for no end. */
export function remember(key: string, area: Area, css: string, until: number): void {
  try {
    const all = rooms(key)
    const last = Date.now() + day
    const room: Room = { ...all[page()], width: innerWidth, until: Math.min(until || last, last), [area]: css }
    delete all[page()]
    if (room.edges || room.blocks) all[page()] = room
    localStorage.setItem(name(key), JSON.stringify(Object.fromEntries(Object.entries(all).slice(-most))))
  } catch {
    // Storage is barred: nothing is kept free next time.
  }
}
