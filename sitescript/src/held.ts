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

/** So much is held. */
const most = 40
let held: Record<string, Tagged> | undefined
const name = () => `mastflag.${settings.mastflag}.held`

/** The tags of what is held. A preview is sent whole. */
export function tags(): string[] {
  try {
    held ??= JSON.parse(sessionStorage.getItem(name()) ?? '{}') as Record<string, Tagged>
  } catch {
    held = {} // Barred, or not what was written.
  }
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
    sessionStorage.setItem(name(), JSON.stringify(held))
  } catch {
    // Barred, or full: it is held as long as the page.
  }
}
