// What the server has sent on this visit, by the tag of its content: it is not sent again, only its tag is.
import { preview } from './preview'
import { settings } from './program'
import type { Answer } from './shapes'

/** What has a tag: a notice, or the part of an answer about consent. */
interface Tagged {
  tag: string
  at?: unknown
  remainder?: unknown
}

/** So much is held; and so many characters are kept at most for the next page: sites need their storage, too. */
const most = 40
const mostKept = 200_000
let held: Record<string, Tagged> | undefined
const name = () => `mastflag.${settings.mastflag}.held`

/** What the last page has kept, but for what was not kept by this script. */
function read(): Record<string, Tagged> {
  try {
    const found = Object.entries(JSON.parse(sessionStorage.getItem(name()) ?? '{}') as Record<string, Tagged | null>)
    return Object.fromEntries(found.filter(([tag, x]) => x?.tag === tag)) as Record<string, Tagged>
  } catch {
    return {} // Barred, or not JSON.
  }
}

/** The tags of what is held. A preview is sent whole. */
export function tags(): string[] {
  held ??= read()
  return preview() ? [] : Object.keys(held)
}

/** Puts into an answer what it names by its tag alone, and holds what it brings. */
export function complete({ show, waiting = [], consent }: Answer): void {
  if (preview()) return
  const all: Tagged[] = [...show, ...waiting]
  if (consent) all.push(consent.part)
  let isNew = false
  for (const x of all) {
    if (!x.tag) continue // the program is of an earlier version
    isNew ||= !(x.tag in held!)
    Object.assign(x, { ...held![x.tag], ...x })
    // What is of one page alone is not held.
    held![x.tag] = { ...x, at: undefined, remainder: undefined }
  }
  if (!isNew) return
  held = Object.fromEntries(Object.entries(held!).slice(-most))
  try {
    const kept = JSON.stringify(held)
    if (kept.length <= mostKept) sessionStorage.setItem(name(), kept)
  } catch {
    // Barred, or full: it is held as long as the page.
  }
}
