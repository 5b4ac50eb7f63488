// Keeps what a visitor's browser remembers of the site in a cookie of its registrable
// domain, so that all its hosts know it. Loaded only where a site has chosen that.

/** Longer than this a cookie is not kept everywhere (RFC 6265 §6.1: 4096 bytes, name and attributes among them). */
const room = 3800
/** s; browsers keep none for longer (RFC 6265bis §5.5). */
const lasts = 400 * 86_400
/** What other hosts need not know: it waits to be told by the host that it was done on. */
const own = ['untold', 'unsent', 'told']

/** Where something is kept by name. */
type Box = Pick<Storage, 'getItem' | 'setItem'>

interface Kept {
  notices: Record<string, { shown?: string[]; closed?: string; clicked?: string; met?: string }>
  events?: Record<string, string[]>
  visits?: { seen: string[] }
}

/** A cookie's value may hold neither quotes nor commas (RFC 6265 §4.1.1): quotes become apostrophes. */
const packed = (text: string) =>
  encodeURIComponent(text)
    .replace(/'/g, '%27')
    .replace(/%22/g, "'")
    .replace(/%(3A|5B|5D|7B|7D|2F)/g, decodeURIComponent)
/** The other way; "" of what is none: any host of the domain can write it. */
const unpacked = (value: string) => {
  try {
    return decodeURIComponent(value.replace(/'/g, '%22'))
  } catch {
    return ''
  }
}

/** The value for what is kept: of what is too long for a cookie the oldest goes. */
export function fitting(all: Kept): string {
  const kept = JSON.parse(JSON.stringify(all)) as Kept & Record<string, unknown>
  for (const name of own) delete kept[name]
  for (let most = 50; ; most >>= 1) {
    const value = packed(JSON.stringify(kept))
    if (value.length <= room) return value
    if (!most) break
    for (const acts of Object.values(kept.notices)) if (acts.shown) acts.shown = acts.shown.slice(-most)
    for (const name in kept.events) kept.events[name] = kept.events[name].slice(-most)
    if (kept.visits) kept.visits.seen = kept.visits.seen.slice(-most)
  }
  const last = (id: string) => {
    const { closed = '', clicked = '', met = '', shown = [] } = kept.notices[id]
    return [closed, clicked, met, ...shown].sort().at(-1) as string
  }
  for (const id of Object.keys(kept.notices).sort((a, b) => (last(a) < last(b) ? -1 : 1))) {
    delete kept.notices[id]
    const value = packed(JSON.stringify(kept))
    if (value.length <= room) return value
  }
  return ''
}

/**
 * Where things are kept, for good and for the session, for the domain among those listed that this host lies in;
 * undefined if none does.
 */
export function boxes(domains: string): [Box, Box] | undefined {
  const domain = domains.split(' ').find((d) => `.${location.hostname}`.endsWith(`.${d}`))
  if (!domain) return
  const read = (name: string) =>
    document.cookie
      .split('; ')
      .find((c) => c.startsWith(`${name}=`))
      ?.slice(name.length + 1)
  /** Whether it is kept. */
  const write = (name: string, value: string, age: string) => {
    document.cookie =
      `${name}=${value};domain=${domain};path=/;` +
      `samesite=lax${location.protocol === 'https:' ? ';secure' : ''}${age}`
    return read(name) === value
  }
  return [
    {
      /** What all hosts know, and of this one alone what it has still to tell. */
      getItem(name) {
        const here = local('localStorage')?.getItem(name) ?? 'null'
        const value = read(name)
        if (!value) return here
        try {
          const all = JSON.parse(unpacked(value))
          for (const name of own) all[name] = JSON.parse(here)?.[name]
          return JSON.stringify(all)
        } catch {
          return here
        }
      },
      setItem(name, text) {
        local('localStorage')?.setItem(name, text) // other tabs hear of it
        if (!write(name, fitting(JSON.parse(text)), `;max-age=${lasts}`) && !local('localStorage'))
          throw new Error('not kept')
      },
    },
    {
      getItem: (name) => {
        const value = read(`${name}.session`)
        const since = value && unpacked(value)
        return since && Date.parse(since) ? since : (local('sessionStorage')?.getItem(name) ?? null)
      },
      setItem(name, text) {
        if (!write(`${name}.session`, packed(text), '')) local('sessionStorage')?.setItem(name, text)
      },
    },
  ]
}

/** The window's own storage; undefined where it is barred. */
function local(which: 'localStorage' | 'sessionStorage'): Storage | undefined {
  try {
    return window[which]
  } catch {
    return undefined
  }
}
