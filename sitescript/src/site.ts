// The script that sites load: asks the server what shows on this page view,
// puts it there, listens, and asks again when the answer has run out. What
// waits for something on this page view it lets in when that comes true.
// Whatever fails in it leaves the page unharmed.
import { Memory } from './memory'
import { place, prepare, stands, type Bar, type Popup } from './place'
import * as preview from './preview'
import { Watch, holds, type Node } from './remainder'
import { remember } from './reserve'

/** A notice that shows once its remainder holds. */
interface Waiting extends Bar {
  remainder: Node
}

interface Answer {
  /** ms since 1970, by the server's clock. */
  at: number
  /** When the answer runs out; null for never. */
  until: number | null
  show: Bar[]
  waiting?: Waiting[]
  /** How many notices each slot holds; with waiting. */
  capacity?: Record<string, number>
  /** The facts to send from now on, as version:names. */
  wants?: string
  /** When the preview ends, if this is one. */
  preview?: number
}

function start(): void {
  const own = document.currentScript as HTMLScriptElement
  const server = new URL(own.src).origin
  const key = own.dataset.mastflag as string
  const memory = new Memory(key)
  const tokenName = `mastflag.${key}.preview`
  const framed = parent !== window
  let token = preview.token(tokenName)
  /** The server's clock minus this machine's, ms. */
  let offset = 0
  let view = ''
  let path = location.pathname
  let shown: Bar[] = []
  let waiting: Waiting[] = []
  let capacity: Record<string, number> = {}
  /** Ids of what stands on the page now. */
  let standing: string[] = []
  const counted = new Set<string>()
  let [version, wants] = readWants(own.dataset.wants ?? '')
  /** What the site has told of the person, by trait. */
  const person: Record<string, unknown> = {}
  let seen = ''
  const watch = new Watch(
    () => memory.spent(),
    () => put(false),
  )
  let until = 0
  let timer = 0
  let asked = 0

  const now = () => new Date(Date.now() + offset).toISOString()

  async function ask(): Promise<void> {
    clearTimeout(timer)
    asked = Date.now()
    if (path !== location.pathname) {
      if (seen) memory.leave(path, watch.seconds())
      path = location.pathname
      view = ''
      watch.restart()
      counted.clear()
    }
    if (seen !== path && wants.some((w) => /^(visits|site)\./.test(w))) {
      seen = path
      memory.see(path)
    }
    try {
      // A body of plain text needs no preflight request.
      const reply = await fetch(`${server}/d/${key}`, {
        method: 'POST',
        credentials: 'omit',
        body: JSON.stringify({
          url: location.href.split('#')[0],
          facts: facts(),
          wants: version,
          memory: token ? undefined : memory.visit(view),
          preview: token || undefined,
        }),
      })
      if (reply.status === 410 && token) {
        stopPreview('This preview link no longer works. You see the site as it is.')
        return
      }
      if (!reply.ok) return
      const answer = (await reply.json()) as Answer
      offset = answer.at - Date.now()
      if (!view) {
        view = now()
        memory.begin(view)
      }
      if (answer.wants) {
        const before = wants.length
        ;[version, wants] = readWants(answer.wants)
        if (wants.length && !before) return ask()
      }
      shown = answer.show
      waiting = token ? [] : (answer.waiting ?? [])
      capacity = answer.capacity ?? {}
      for (const w of waiting) watch.add(w.remainder)
      const popup = server + own.dataset.popup
      await prepare([...shown, ...waiting], async () => ((await import(/* @vite-ignore */ popup)) as { popup: Popup }).popup)
      until = answer.until ? answer.until - offset : 0
      put()
      if (token && !framed) preview.say('A preview: visitors do not see this yet.', () => stopPreview(''))
      if (until) again(until - Date.now())
    } catch {
      // The server is not there: the page stays as it is, and asks again later.
      again(60_000)
    }
  }

  /** What the site's audiences ask about and only this page can tell. */
  function facts(): Record<string, unknown> {
    const all: Record<string, unknown> = { 'locale.zone': Intl.DateTimeFormat().resolvedOptions().timeZone }
    for (const name of wants) {
      const [room, rest] = [name.split('.')[0], name.slice(name.indexOf('.') + 1)]
      const value =
        room === 'visits'
          ? memory.fact(rest)
          : room === 'person'
            ? person[rest]
            : { 'referrer.url': document.referrer, 'page.title': document.title, 'device.width': innerWidth }[name]
      if (value !== undefined && value !== '') all[name] = value
    }
    return all
  }

  /** What shows: as decided, and what no longer waits, in the order of rank, as far as there is room. */
  function showing(): Bar[] {
    const met = waiting.filter((w) => holds(w.remainder, watch.known))
    if (!met.length) return shown
    const taken: Record<string, number> = {}
    const slotOf = (b: Bar) => (b.slot === 'cover' ? 'centre' : b.slot)
    // What is open in the middle is not replaced: the other waits (rule D3).
    const open = (b: Bar) => slotOf(b) === 'centre' && standing.includes(b.id)
    return [...shown, ...met]
      .sort((a, b) => Number(open(b)) - Number(open(a)) || a.order - b.order)
      .filter((b) => {
        const slot = slotOf(b)
        taken[slot] = (taken[slot] ?? 0) + 1
        return taken[slot] <= (capacity[slot] ?? Infinity)
      })
  }

  function again(ms: number): void {
    timer = setTimeout(ask, Math.min(Math.max(ms, 0) + 20, 2 ** 31 - 1))
  }

  function stopPreview(why: string): void {
    token = ''
    preview.keep(tokenName, '')
    preview.say(why, () => preview.say('', () => {}))
    void ask()
  }

  /** Makes the page show what is to show; where nothing else has changed, only if that has. */
  function put(anew = true): void {
    const bars = showing()
    const ids = bars.map((b) => b.id)
    if (!anew && ids.join() === standing.join()) return
    standing = ids
    const height = place(bars, act)
    if (!token) remember(key, height, until)
    if (token && framed) parent.postMessage({ mastflag: 'placed', ids: ids.filter(stands) }, server)
    for (const b of bars) {
      if (token || counted.has(b.id) || !b.keep?.includes('shown') || !stands(b.id)) continue
      counted.add(b.id)
      memory.act(b.id, 'shown', now())
    }
  }

  function act(bar: Bar, what: string, target: HTMLElement): void {
    if (what === 'close') {
      if (!token) memory.act(bar.id, 'closed', now())
      shown = shown.filter((b) => b.id !== bar.id)
      waiting = waiting.filter((b) => b.id !== bar.id)
      put()
      // Another may have the place now.
      if (!token) void ask()
    }
    if (what === 'clicked' && !token && bar.keep?.includes('clicked')) memory.act(bar.id, 'clicked', now())
    if (what === 'more') {
      const root = target.getRootNode() as ShadowRoot
      const longer = root.getElementById('longer') as HTMLElement
      longer.hidden = !longer.hidden
      target.setAttribute('aria-expanded', String(!longer.hidden))
    }
  }

  /** The page is looked at again, perhaps after a long sleep. */
  const back = () => {
    if (!document.hidden && Date.now() - asked > 1000) void ask()
  }
  document.addEventListener('visibilitychange', back)
  addEventListener('pageshow', (e) => e.persisted && back())
  addEventListener('popstate', back)
  ;(window as { navigation?: EventTarget }).navigation?.addEventListener('navigatesuccess', () => path !== location.pathname && ask())
  if (token && framed) {
    addEventListener('message', (e) => e.origin === server && e.data?.mastflag === 'refresh' && ask())
    const [stage, picture] = (own.dataset.stage as string).split(' ')
    void import(/* @vite-ignore */ server + stage).then((m: { start(server: string, picture: string): void }) =>
      m.start(server, server + picture),
    )
  }

  addEventListener('pagehide', () => {
    if (seen) memory.leave(path, watch.seconds())
  })

  // What the site tells us: of the person, and of what happened.
  const told = window as { mastflag?: { q?: [string, never][] } }
  const calls = {
    person(traits: Record<string, unknown>): void {
      const before = JSON.stringify(facts())
      for (const [k, v] of Object.entries(traits))
        person[k] = typeof v === 'string' || typeof v === 'number' || typeof v === 'boolean' ? v : undefined
      if (asked && JSON.stringify(facts()) !== before) void ask()
    },
    event(name: string): void {
      if (!wants.includes(`event.${name}`)) return
      memory.event(name, now())
      if (asked) void ask()
    },
  }
  const queue = told.mastflag?.q ?? []
  told.mastflag = calls as never
  for (const [name, value] of queue) calls[name as 'event'](value)

  if (document.body) void ask()
  else document.addEventListener('DOMContentLoaded', () => ask())
}

/** Reads a list of wanted facts, written version:name,name. */
function readWants(list: string): [string, string[]] {
  const [version, names] = list.split(':')
  return [version, names ? names.split(',') : []]
}

try {
  start()
} catch {
  // The page goes on as it would without.
}
