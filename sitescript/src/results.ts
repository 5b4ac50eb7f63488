// Notes what is seen and done of the notices on a page, and tells the server in batches. Every
// page view's answer has a mark, and each act counts once under it: so what may not have arrived
// is simply told again. Loaded where an answer says how it is counted.
import type { Meeting, Memory, Report } from './memory'
import { fill } from './personal'
import type { Bar, CountState, Place } from './shapes'
import { find, firstSpot } from './spot'
import { newID } from './sending'

/** What the script of the page gives. */
interface Page {
  memory: Memory
  /** Where the server takes something of this site. */
  at(what: string): string
  now(): string
  /** Whether this is a preview, which counts nothing. */
  quiet(): unknown
  rootOf(id: string): ShadowRoot | null | undefined
  /** What shows now, and when this page view began. */
  showing(): Bar[]
  view(): string
  /** What the site has told of the person, by trait. */
  person: Record<string, unknown>
  /** The events that it has told of, each with its properties, until they are taken. */
  events: [string, Record<string, unknown>?][]
  /** Asks the server what shows. */
  ask(): Promise<void>
  /** Whether what something waits for has come true. */
  holds(remainder: unknown): boolean
}

/** How long half of a notice has to be in the window, ms (MRC viewable impression); how long acts are gathered. */
const seenAfter = 1000
const gatherFor = 2000
/** How often it is looked whether places are in sight, ms. */
const lookAfter = 200
/** Told again after so long, ms; so many batches and meetings are kept. */
const retryAfter = 20_000
const maxKept = 100

/** What presses on notices are counted as. */
const counted: Record<string, string> = {
  clicked: 'clicked',
  close: 'closed',
  sent: 'sent',
  answered: 'answered',
  accept: 'answered',
  reject: 'answered',
  save: 'answered',
  fine: 'answered',
  confirm: 'answered',
  decline: 'answered',
}

/** Makes the draw that puts a visitor into groups by chance; whether it was kept. */
export function draw(memory: Memory): boolean {
  memory.change((k) => (k.draw ??= newID()))
  return !memory.visit('').noStorage
}

/** Counts go below where answers do. A preview counts nothing. */
export function start(page: Page) {
  const address = `${page.at('r')}/counts`
  const { memory } = page
  let state: CountState | undefined
  /** Of this page view: what was counted, as id and act. */
  let done = new Set<string>()
  let view = ''
  let reports: Report[] = memory.kept.uncounted ?? []
  /** What is being told. */
  let underWay: Report | undefined
  let timer: ReturnType<typeof setTimeout> | undefined
  /** Which notice each element that is watched is; what is in sight; and what of it is waited for. */
  const idOf = new Map<Element, string>()
  const inSight = new Set<string>()
  const waits = new Map<string, ReturnType<typeof setTimeout>>()
  /** What waits for its place to have been in sight for long enough, and whether places are looked at. */
  const placeWaits = new Map<string, ReturnType<typeof setTimeout>>()
  let looks = false

  const indexOf = (id: string) => state?.shown.findIndex((s) => s.startsWith(`${id} `)) ?? -1
  const idAt = (of: number) => state!.shown[of]!.split(' ')[0]!
  const isHeldOut = (of: number) => !!state?.shown[of]?.endsWith(' held-out')
  const boxOf = (id: string) => {
    const root = page.rootOf(id)
    return root?.querySelector('.bar') ?? root?.firstElementChild
  }
  const now = () => Date.parse(page.now())

  function persist(): void {
    // Before an answer says whether, only what was kept already.
    if (state ? state.keep : memory.kept.uncounted) memory.change((k) => (k.uncounted = reports.slice(-maxKept)))
  }

  /** Notes an act of this page view, once. */
  function countOnce(id: string, act: string): void {
    const of = indexOf(id)
    if (!state || of < 0 || done.has(`${id} ${act}`)) return
    done.add(`${id} ${act}`)
    const { mark, page: path, shown } = state
    enqueue({
      mark,
      page: path,
      shown,
      acts: [{ of, act }],
      ...(act === 'seen' && isAtBottom(id) && { blocked: true }),
    })
  }

  /** Whether it is for the top of the page and stands at the bottom. */
  const isAtBottom = (id: string) =>
    page.showing().some((b) => b.id === id && b.slot === 'top') && page.rootOf(id)?.host.closest('mastflag-under')

  function enqueue(r: Report): void {
    const last = reports.find((x) => x.mark === r.mark && x !== underWay)
    // What is under way may have arrived without this.
    if (last) {
      last.acts.push(...r.acts)
      if (r.blocked) last.blocked = true
    } else reports.push(r)
    persist()
    clearTimeout(timer)
    timer = setTimeout(send, gatherFor)
  }

  async function send(): Promise<void> {
    if (underWay || !reports.length) return
    const batch = (underWay = reports[0]!)
    let settled = false
    try {
      const reply = await fetch(address, {
        method: 'POST',
        credentials: 'omit',
        keepalive: true,
        body: JSON.stringify(batch),
      })
      // What it refuses it would refuse again; what it could not take it may take later.
      settled = reply.status < 500 && reply.status !== 429
    } catch {
      // Another time.
    }
    underWay = undefined
    if (settled) {
      reports = reports.filter((r) => r !== batch)
      persist()
    }
    clearTimeout(timer)
    if (reports.length) timer = setTimeout(send, settled ? 0 : retryAfter)
  }

  /** It was in sight for long enough, or something was done with it. */
  function markSeen(id: string): void {
    const of = indexOf(id)
    if (of < 0) return
    if (!isHeldOut(of)) countOnce(id, 'seen')
    if (!state?.places?.[of]) meet(id)
  }

  /** The visitor has met it, or would have: counted once a visitor, from when on its goal can be reached. */
  function meet(id: string): void {
    const of = indexOf(id)
    if (of < 0 || !state?.keep || memory.kept.met?.[id]) return
    const goal = state.goals?.[id]
    const { mark, page: path, shown } = state
    memory.change((k) => {
      const met = Object.entries(k.met ?? {}).slice(1 - maxKept)
      k.met = Object.fromEntries(met)
      k.met[id] = goal ? { until: now() + goal.within, mark, page: path, shown, of } : {}
    })
    countOnce(id, 'visitors')
    // It is a goal of its own page.
    if (state.reached?.includes(id)) reach(id)
  }

  const isOver = ({ until }: Meeting) => !!until && until < now()

  /** Its goal was reached: once a visitor, and in time. */
  function reach(id: string): void {
    const { mark, page: path, shown, of, until } = memory.kept.met?.[id] ?? {}
    if (!mark || isOver({ until })) return
    memory.change((k) => (k.met![id] = {}))
    if (state?.goals?.[id]?.keep) memory.act(id, 'converted', page.now())
    enqueue({ mark, page: path!, shown: shown!, acts: [{ of: of!, act: 'reached' }] })
  }

  /** Waits a second, in which the notice must not leave the window; or stops waiting. */
  function waitFor(id: string, visible: boolean): void {
    clearTimeout(waits.get(id))
    waits.delete(id)
    if (visible && !document.hidden) waits.set(id, setTimeout(markSeen, seenAfter, id))
  }

  /** Whether the place where it begins, or would, is in the window. */
  function placeInSight(of: number, place: Place): boolean {
    const id = idAt(of)
    const rest = state!.held?.[of]
    if (document.hidden || (rest && !page.holds(rest))) return false
    const spot = place.spots && firstSpot(place)
    const within = place.spots ? spot && find(spot.selector) : document.body
    const e = isHeldOut(of) ? within : boxOf(id)
    if (!e?.getClientRects().length) return false
    const { top, bottom } = e.getBoundingClientRect()
    const below = e === within && !/before|first|instead/.test(spot?.where ?? '')
    const y = below ? bottom : top
    return y >= 0 && y <= innerHeight
  }

  /** Looks at places until all are met: what is not there yet may come, and the page may move by whatever means. */
  function lookAtPlaces(): void {
    const open = Object.entries(state?.places ?? {}).filter(([of]) => !memory.kept.met?.[idAt(+of)])
    looks = !!state?.keep && open.length > 0
    if (!looks) return
    for (const [of, place] of open) {
      const id = idAt(+of)
      const visible = placeInSight(+of, place)
      if (visible === placeWaits.has(id)) continue
      clearTimeout(placeWaits.get(id))
      placeWaits.delete(id)
      if (visible) placeWaits.set(id, setTimeout(meet, seenAfter, id))
    }
    setTimeout(lookAtPlaces, lookAfter)
  }

  const observer = new IntersectionObserver(
    (entries) => {
      for (const e of entries) {
        const id = idOf.get(e.target)
        if (id === undefined) continue
        // What comes back to the page is watched anew.
        if (!e.target.isConnected) forget(e.target)
        // Of what is larger than the window half of that. What is taken off the page is out of sight.
        const half = e.intersectionRatio >= 0.5 || e.intersectionRect.height >= innerHeight / 2
        if (half) inSight.add(id)
        else inSight.delete(id)
        if (half !== waits.has(id)) waitFor(id, half)
      }
    },
    { threshold: [0, 0.25, 0.5, 0.75, 1] },
  )

  /** Stops watching an element that has left the page. */
  function forget(box: Element): void {
    observer.unobserve(box)
    idOf.delete(box)
  }

  /** What the site has told, by the name of a place in words. */
  const valueOf = (name: string) =>
    name.startsWith('person.') ? page.person[name.slice(7)] : memory.kept.properties?.[name.slice(6)]

  /** Looks for what has come to the page, or would have. */
  function watchNotices(): void {
    if (!state || page.quiet()) return
    for (const bar of page.showing()) {
      fill(page.rootOf(bar.id), valueOf)
      const box = boxOf(bar.id)
      if (bar.slot === 'title') {
        if (!inSight.has(bar.id)) waitFor(bar.id, true)
        inSight.add(bar.id)
      } else if (box?.isConnected && !idOf.has(box)) {
        idOf.set(box, bar.id)
        observer.observe(box)
      }
    }
    // Who is held out would have seen it from now on.
    state.shown.forEach((_, of) => {
      const id = idAt(of)
      const rest = state!.held?.[of]
      if (!isHeldOut(of) || state!.places?.[of] || waits.has(id) || inSight.has(id) || (rest && !page.holds(rest)))
        return
      inSight.add(id)
      waitFor(id, true)
    })
    if (!looks) lookAtPlaces()
  }

  /** Takes the events that the site has told of: goals may be reached, and what is wanted of them is kept. */
  function takeEvents(): void {
    if (page.quiet() || !state) return
    for (const [name, properties] of page.events.splice(0)) {
      for (const [key, value] of Object.entries(properties ?? {}))
        if (state.properties?.includes(`${name}.${key}`) && /^(string|number|boolean)$/.test(typeof value))
          memory.change((k) => ((k.properties ??= {})[`${name}.${key}`] = value as string))
      for (const [id, { event, least }] of Object.entries(state.goals ?? {}))
        if (event === name && (least == null || Number(properties?.value) >= least)) reach(id)
    }
  }

  addEventListener('visibilitychange', () => {
    for (const bar of page.showing()) if (bar.tab) countOnce(bar.id, document.hidden ? 'left' : 'back')
    for (const id of inSight) waitFor(id, !document.hidden)
    if (document.hidden) leave()
  })
  addEventListener('pagehide', leave)
  addEventListener('online', () => void send())

  /** The page may not come back: what is not told yet is told now, and told again if it may not have arrived. */
  function leave(): void {
    for (const r of reports) navigator.sendBeacon(address, JSON.stringify(r))
    if (!state?.keep) reports = []
  }

  if (reports.length && !page.quiet()) timer = setTimeout(send)

  return {
    hold(next: CountState | undefined): void {
      if (view !== page.view()) {
        view = page.view()
        done = new Set()
        // What stays in sight is looked at anew.
        for (const id of inSight) waitFor(id, true)
        for (const wait of placeWaits.values()) clearTimeout(wait)
        placeWaits.clear()
      }
      state = next
      if (page.quiet() || !next) return
      // A goal that can be reached no more needs no mark.
      if (Object.values(memory.kept.met ?? {}).some(isOver))
        memory.change((k) => {
          for (const [id, m] of Object.entries(k.met ?? {})) if (isOver(m)) k.met![id] = {}
        })
      // What helped to count is no longer to be kept.
      if (!next.keep && (memory.kept.met || memory.kept.draw))
        memory.change((k) => {
          delete k.met
          delete k.draw
          delete k.uncounted
        })
      const unwanted = Object.keys(memory.kept.properties ?? {}).filter((p) => !next.properties?.includes(p))
      if (unwanted.length) memory.change((k) => unwanted.forEach((p) => delete k.properties?.[p]))
      for (const id of next.reached ?? []) reach(id)
      const known = JSON.stringify(memory.kept.properties)
      takeEvents()
      watchNotices()
      // The decision did not know of it.
      if (JSON.stringify(memory.kept.properties) !== known) void page.ask()
    },
    placed(): void {
      takeEvents()
      queueMicrotask(watchNotices)
    },
    act(bar: Bar, what: string): void {
      const act = counted[what]
      if (!act || page.quiet()) return
      markSeen(bar.id)
      meet(bar.id)
      countOnce(bar.id, act)
      const goal = state?.goals?.[bar.id]
      if ((goal?.link && act === 'clicked') || (goal?.form && act === 'sent')) reach(bar.id)
    },
  }
}
