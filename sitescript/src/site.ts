// The script that sites load: asks the server what shows on this page view,
// puts it there, listens, and asks again when the answer has run out. What
// waits for something on this page view it lets in when that comes true.
// Whatever fails in it leaves the page unharmed.
import { bring } from './bring'
import { write } from './countdown'
import { remembered } from './memory'
import { isSettled, parts, place, prepare, attach, rootOf, shadow, setPolicy, stands, detach } from './place'
import { watching } from './remainder'
import { giveBack, patience, remember, setStyle, type Area } from './reserve'
import type { Answer, Bar, Waiting } from './shapes'
import { createPolicy } from './trust'
import type { Visits } from './visits'

/** A part that takes answers, loaded where a page has something to answer. */
interface Answering {
  /** What holds from now on, and what stands on the page; undefined where nothing is asked any more. */
  hold(state: unknown, bars: Bar[]): void
  /** A press on a notice. */
  act(bar: Bar, what: string): void
  /** What shows may have changed, or the site told of something. */
  placed?(): void
}

/**
 * Begins to work on the page: for a site whose key is settings.mastflag, with the server at an origin. The settings say
 * besides where each part of the script lies, and what else the server knows of the site; nonce is what scripts of the
 * page's own carry.
 */
export function start(server: string, settings: Record<string, string>, nonce: string): void {
  const policy = createPolicy()
  if (!policy) return giveBack()
  setPolicy(policy)
  const key = settings.mastflag!
  const memory = remembered(key)
  const tokenName = `mastflag.${key}.preview`
  const framed = parent !== window
  let token = ''
  /** The server's clock minus this machine's, ms. */
  let offset = 0
  let view = ''
  let path = location.pathname
  /** The address that was last asked about; none has its fragment. */
  let askedAddress = ''
  const currentAddress = () => location.href.split('#')[0]!
  let shown: Bar[] = []
  let waiting: Waiting[] = []
  let capacity: Record<string, number> = {}
  /** Ids of what stands on the page now. */
  let standing: string[] = []
  const counted = new Set<string>()
  /** When countdowns run out; which were seen running on this page; which have run out, at which moment. */
  let ends: Record<string, number> = {}
  const running = new Set<string>()
  const over: Record<string, number> = {}
  let beat = 0
  /** What takes answers, or the loading of it; and facts that it knows. */
  const takes: Record<string, Answering | Promise<Answering | void> | void> = {}
  /** Has each of them do something, now or once it is there. */
  const withTakers = (how: (taker: Answering) => void): void => {
    for (const name in takes) {
      const taker = takes[name] as Partial<Promise<Answering | void>> | void
      if (taker?.then) void taker.then((t) => t && how(t))
      else if (taker) how(taker as Answering)
    }
  }
  const more: Record<string, unknown> = {}
  /** This machine's other clock when the server was last asked, which nobody sets. */
  let mark = 0
  /** The facts to send, and the version of their list: written version:name,name. */
  let [version, ...wants] = (settings.wants ?? '').split(/[:,]/)
  /** What the site has told of the person, by trait; and of what happened, until that is taken. */
  const person: Record<string, unknown> = {}
  const events: [string, object?][] = []
  /** Counts visits, where the site's audiences ask about them; and the loading of it. */
  let visits: Visits | undefined
  let counting: Promise<unknown> | undefined
  const watch = watching(
    () => visits?.spent() ?? 0,
    () => put(false),
  )
  let until = 0
  let timer = 0
  let asked = 0
  /** How often in a row the server could not be had. */
  let failures = 0
  /** How often the server was asked, and which asking the page is as of. */
  let turns = 0
  let latest = 0
  /** The visitor wants to see the question again, and has not answered or closed it on this page. */
  let wanted = false
  /** The asking after which each notice was taken off: an answer to it, or to one before, still carries it. */
  const dropped: Record<string, number> = {}

  /** Where the server takes something of this site. */
  const at = (what: string) => `${server}/${what}/${key}`
  const clock = () => Date.now() + offset
  const now = () => new Date(clock()).toISOString()

  async function ask(anew?: unknown): Promise<void> {
    clearTimeout(timer)
    const turn = ++turns
    const sent = (asked = Date.now())
    mark = performance.now()
    askedAddress = currentAddress()
    if (path !== location.pathname) {
      visits?.leave()
      path = location.pathname
      view = ''
      wanted = false
      watch.restart()
      counted.clear()
      running.clear()
    }
    wanted ||= anew === true
    try {
      if (wants.some((w) => /^(visits|site)/.test(w))) {
        // Where it cannot be loaded nothing is known of visits, and the rest goes on.
        await (counting ??= load<typeof import('./visits')>('visits').then(
          (m) => (visits = m.start(memory, watch.seconds)),
          () => {},
        ))
        visits?.see(path)
      }
      // A body of plain text needs no preflight request.
      const reply = await fetch(at('d'), {
        method: 'POST',
        credentials: 'omit',
        signal: AbortSignal.timeout(20_000),
        body: JSON.stringify({
          url: askedAddress,
          facts: facts(),
          wants: version,
          memory: memory.visit(view),
          preview: token,
          again: wanted,
        }),
      })
      if (reply.status === 410 && token) return stopPreview(true)
      if (!reply.ok) throw reply.status
      const answer = (await reply.json()) as Answer
      // What was asked later may be answered sooner.
      if (turn < latest) return
      latest = turn
      failures = 0
      // It was so in the middle of the way there and back.
      offset = answer.at - (sent + Date.now()) / 2
      if (!view) {
        view = now()
        memory.begin(view)
      }
      if (answer.wants) {
        const [before] = wants
        ;[version, ...wants] = answer.wants.split(/[:,]/)
        if (wants[0] && !before) return ask()
      }
      if (answer.results?.draw && (await load<typeof import('./results')>('results')).draw(memory)) return ask()
      const stays = (b: Bar) => !(dropped[b.id] >= turn)
      shown = answer.show.filter(stays)
      waiting = (answer.waiting ?? []).filter(stays)
      capacity = answer.capacity!
      ends = answer.ends ?? {}
      for (const w of waiting) watch.add(w.remainder)
      for (const name of ['consent', 'disclaimer', 'results'] as const)
        // Where it cannot be loaded nothing runs that needs it, and the rest of the page is as it should be.
        if (answer[name])
          takes[name] ??= load<{ start(page: object): Answering }>(name)
            .then((m) => m.start(page))
            .catch(() => {})
      await prepare([...shown, ...waiting], load, page)
      until = answer.until ? answer.until - offset : 0
      put()
      const ready: [string, Answering][] = []
      for (const name in takes) {
        const taker = (takes[name] = await takes[name])
        if (taker) ready.push([name, taker])
        else delete takes[name] // it is loaded the next time
      }
      put(false)
      for (const [name, taker] of ready) taker.hold(answer[name as 'consent'], showing())
      if (token && !framed) void ribbon().then((r) => r.say(shadow, stopPreview))
      if (until) again(until - Date.now())
    } catch (why) {
      if (turn < turns) return // asked again meanwhile
      if (!latest) giveBack()
      // The server is not there, or cannot answer now: the page stays as it is, and asks again later and later. What it
      // refuses it would refuse again.
      const refused = typeof why === 'number' && why < 500 && why !== 408 && why !== 429
      if (!refused) again(60_000 * Math.min(2 ** failures++, 10) * (1 + Math.random() / 4))
    }
  }

  /** What the site's audiences ask about and only this page can tell. */
  function facts(): Record<string, unknown> {
    // Of Intl only where need be: its first use takes a browser long.
    const zone = told.Temporal?.Now.timeZoneId() ?? Intl.DateTimeFormat().resolvedOptions().timeZone
    const all: Record<string, unknown> = { ...more, 'locale.zone': zone }
    for (const name of wants) {
      const [room, ...names] = name.split('.')
      const rest = names.join('.')
      const known: Record<string, unknown> = {
        visits: visits?.fact(rest),
        person: person[rest],
        event: memory.kept.properties?.[rest],
        'referrer.url': document.referrer,
        'page.title': document.title,
        'device.width': innerWidth,
      }
      // By its room, or by its whole name.
      const value = known[room!] ?? known[name] ?? ''
      if (value !== '') all[name] = value
    }
    return all
  }

  /** Whether what takes a notice's answer is there: before, a question does not show. */
  const isReady = (b: Bar) => {
    const taker = b.hash ? takes.consent : b.disclaims ? takes.disclaimer : ({} as Answering)
    return taker && !('then' in taker)
  }

  /** What shows: as decided, and what no longer waits, in the order of rank, as far as there is room. */
  function showing(): Bar[] {
    const met = waiting.filter((w) => watch.holds(w.remainder))
    if (!met.length) return shown.filter(isReady)
    const taken: Record<string, number> = {}
    const slotOf = (b: Bar) => (b.slot === 'cover' ? 'centre' : b.slot)
    // What is open in the middle is not replaced: the other waits (rule D3).
    const open = (b: Bar) => slotOf(b) === 'centre' && standing.includes(b.id)
    return [...shown, ...met]
      .sort((a, b) => +open(b) - +open(a) || a.order - b.order)
      .filter((b) => {
        const slot = slotOf(b)
        return (taken[slot] = (taken[slot] ?? 0) + 1) <= (capacity[slot] ?? Infinity)
      })
      .filter(isReady)
  }

  function again(ms: number): void {
    timer = setTimeout(ask, Math.min(Math.max(ms, 0) + 20, 2e9))
  }

  /** From now on the page is seen as it is; gone is whether the preview has run out. */
  function stopPreview(gone?: boolean): void {
    token = ''
    void ribbon()
      .then((r) => r.stop(tokenName, shadow, gone))
      .then(ask, ask)
  }

  const load = <T>(part: string) => bring<T>(server + settings[part])
  const ribbon = () => load<typeof import('./ribbon')>('ribbon')

  /** Makes the page show what is to show; where nothing else has changed, only if that has. */
  function put(anew = true): void {
    const bars = showing()
    const ids = bars.map((b) => b.id)
    withTakers((t) => t.placed?.())
    if (!anew && ids.join() === standing.join()) return
    standing = ids
    place(bars, act)
    if (!bars.some((b) => b.spots)) rememberRoom('blocks', '')
    placed()
  }

  /** Does what follows once what is to show stands on the page, or more of it does. */
  function placed(): void {
    withTakers((t) => t.placed?.())
    const ids = standing.filter(stands)
    if (token && framed && isSettled()) parent.postMessage({ mastflag: 'placed', ids }, server)
    for (const b of showing()) {
      if (token || counted.has(b.id) || !b.keep?.includes('shown') || !ids.includes(b.id)) continue
      counted.add(b.id)
      memory.act(b.id, 'shown', now())
    }
    tick()
  }

  /** Remembers the room that is taken on this page, for visitors; where none is, what was kept is given back. */
  const rememberRoom = (area: Area, css: string): void => {
    if (!css) setStyle(area, '')
    if (!token) remember(key, area, css, until)
  }

  /** Brings what counts up to date, now and when a second is over. */
  function tick(): void {
    clearTimeout(beat)
    const at = clock()
    let next = 0
    for (const b of showing()) {
      const root = b.count && rootOf(b.id)
      if (!root) continue
      // A visitor's own begins when it is first seen.
      if (b.count!.kind === 'visitor' && !token && memory.meet(b.id, now())) ends[b.id] = at + b.count!.period!
      const left = (ends[b.id] ?? Infinity) - at
      write(root, b.count!, left, at)
      // What it says before the end, and after.
      const [till, after] = root.querySelectorAll<HTMLElement>('.till,.after')
      if (after) after.hidden = !(till.hidden = left <= 0)
      next = Math.min(next || 1e3, (((left % 1e3) + 1e3) % 1e3 || 999) + 1)
      if (left > 0) running.add(b.id)
      else if (b.count!.kind !== 'since') runOut(b)
    }
    if (!next) return
    beat = setTimeout(tick, next)
    // One of this machine's clocks was set, or it has slept.
    if (Math.abs(Date.now() - asked - performance.now() + mark) > 3e3) void ask()
  }

  /** Its countdown has run out: does what is to follow (rule C4), once for each moment. */
  function runOut(b: Bar): void {
    const { then, kind, period } = b.count!
    if (token || over[b.id] === ends[b.id]) return
    over[b.id] = ends[b.id]
    if (running.has(b.id) && parts.ways?.leads(b)) return
    if (then === 'again') {
      ends[b.id] += period!
      return tick()
    }
    // After one of many moments the server knows the next; what leaves makes room.
    if (kind !== 'repeating') {
      if (then !== 'disappear' && then !== 'hand-over') return
      drop(b)
    }
    void ask()
  }

  /** Takes a notice off this page view. */
  function drop(bar: Bar): void {
    dropped[bar.id] = turns
    if (bar.hash) wanted = false
    shown = shown.filter((b) => b.id !== bar.id)
    waiting = waiting.filter((b) => b.id !== bar.id)
    put()
  }

  function act(bar: Bar, what: string): void {
    withTakers((t) => t.act(bar, what))
    if (what === 'close') drop(bar)
    if (token) return
    if (bar.keep?.includes(what)) memory.act(bar.id, what as 'clicked', now())
    if (what === 'close') {
      memory.act(bar.id, 'closed', now())
      // Another may have the place now.
      void ask()
    }
  }

  /** The page is looked at again, perhaps after a long sleep. */
  const back = () => {
    if (!document.hidden && asked && Date.now() - asked > 1000) void ask()
  }
  addEventListener('visibilitychange', back)
  // A page that the browser kept and takes out again asks at once, however short it was away.
  addEventListener('pagehide', () => asked && (asked = 1))
  addEventListener('pageshow', (e) => e.persisted && back())
  // An app goes on by itself: another path is another page view, another query may decide otherwise.
  const askIfMoved = () => void (asked && askedAddress !== currentAddress() && ask())
  const { navigation } = window as { navigation?: EventTarget }
  if (navigation) navigation.addEventListener('navigatesuccess', askIfMoved)
  else setInterval(askIfMoved, 500)
  // What the site tells us: of the person, and of what happened.
  const told = window as {
    mastflag?: { q?: [string, ...never[]][]; [call: string]: unknown }
    Temporal?: { Now: { timeZoneId(): string } }
  }
  const calls = {
    person(traits: Record<string, unknown>): void {
      const before = JSON.stringify(facts())
      // A string, a number or a boolean; nothing else is a trait.
      for (const [k, v] of Object.entries(traits)) person[k] = /^(st|n|bo)/.test(typeof v) ? v : undefined
      withTakers((t) => t.placed?.())
      if (asked && JSON.stringify(facts()) !== before) void ask()
    },
    event(name: string, properties?: object): void {
      events.push([name, properties])
      withTakers((t) => t.placed?.())
      if (!wants.includes(`event.${name}`)) return
      memory.event(name, now())
      if (asked) void ask()
    },
  }
  /** What the parts of the script get. */
  const page = {
    memory,
    rootOf,
    shadow,
    attach,
    detach,
    put,
    load,
    ask,
    now,
    facts,
    act,
    quiet: () => token,
    at,
    more,
    drop,
    showing,
    watch,
    view: () => view,
    key,
    nonce,
    policy,
    person,
    events,
    placed,
    remember: (css: string) => rememberRoom('edges', css),
    rememberBlocks: (css: string) => rememberRoom('blocks', css),
  }
  const begin = () => {
    // Until now the line in the page has kept what was told.
    const queue = told.mastflag?.q ?? []
    told.mastflag = calls
    for (const [name, first, second] of queue) calls[name as 'event'](first!, second)
    if (token && framed)
      void load<typeof import('./stage')>('stage').then((m) => m.start(server, settings.picture!, ask))
    if (document.body) void ask()
    else addEventListener('DOMContentLoaded', ask)
    setTimeout(() => latest || giveBack(), patience)
  }

  try {
    token = sessionStorage.getItem(tokenName) ?? ''
  } catch {
    // Barred: a preview lasts as long as the page.
  }
  // A preview link carries its token in the address; what a domain shares is read first.
  const first = /[#&]mastflag-preview=/.test(location.hash)
    ? ribbon().then((r) => (token = r.take(tokenName)))
    : settings.domains &&
      load<typeof import('./shared')>('shared').then((m) => {
        const to = m.boxes(settings.domains!)
        if (to) memory.move(to)
      })
  if (first) void first.then(begin, begin)
  else begin()
}
