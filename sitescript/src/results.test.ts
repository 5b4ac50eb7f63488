import { beforeEach, describe, expect, it, vi } from 'vitest'
import { card, freshPage, Program, settle } from './testing/program'
import type { Bar, CountState } from './shapes'

/** What watches whether elements are in sight: a test says it. */
let see: (id: string, ratio: number, height?: number) => void
const watched = new Set<Element>()

const state = (more: Partial<CountState> = {}): CountState => ({
  mark: 'm1',
  page: '/fares',
  shown: ['gale 1 en', 'sale 2 en b'],
  keep: true,
  ...more,
})

describe('what is counted', () => {
  let results: ReturnType<typeof import('./results').start>
  let memory: import('./memory').Memory
  let program: Program
  let bars: Bar[] = []
  let view = 'v1'
  const roots: Record<string, ShadowRoot> = {}
  const page = {
    at: (what: string) => `/${what}/sundrey`,
    now: () => new Date().toISOString(),
    quiet: vi.fn((): unknown => ''),
    rootOf: (id: string) => roots[id],
    showing: () => bars,
    view: () => view,
    person: {} as Record<string, unknown>,
    events: [] as [string, Record<string, unknown>?][],
    ask: vi.fn(() => Promise.resolve()),
    holds: vi.fn(() => false),
  }
  const beacons: unknown[] = []
  /** What was told so far, as mark: acts of each notice. */
  const told = () =>
    program.told.flatMap(({ body }) => {
      const { mark, acts } = body as { mark: string; acts: { of: number; act: string }[] }
      return acts.map((a) => `${mark} ${a.of} ${a.act}`)
    })
  const show = (...list: Bar[]) => {
    for (const b of list) {
      const host = document.createElement('mastflag-notice')
      roots[b.id] ??= host.attachShadow({ mode: 'open' })
      if (!roots[b.id]!.innerHTML) roots[b.id]!.innerHTML = b.html
      if (!roots[b.id]!.host.isConnected) document.body.append(roots[b.id]!.host)
    }
    bars = list
  }
  const start = async () => (results = (await import('./results')).start({ ...page, memory } as never))
  const pressed = (id: string, what: string) =>
    results.act(
      bars.find((b) => b.id === id)!,
      what,
    )
  const turn = (hidden: boolean) => {
    vi.spyOn(document, 'hidden', 'get').mockReturnValue(hidden)
    dispatchEvent(new Event('visibilitychange'))
  }

  beforeEach(async () => {
    await freshPage()
    for (const id of Object.keys(roots)) delete roots[id]
    watched.clear()
    page.events.length = beacons.length = 0
    page.person = {}
    view = 'v1'
    page.quiet.mockReset().mockReturnValue('')
    page.ask.mockReset().mockResolvedValue(undefined)
    page.holds.mockReset().mockReturnValue(false)
    vi.stubGlobal(
      'IntersectionObserver',
      class {
        constructor(callback: (entries: object[]) => void) {
          see = (id, intersectionRatio, height = 0) => {
            const target = roots[id]!.querySelector('.bar')!
            if (watched.has(target)) callback([{ target, intersectionRatio, intersectionRect: { height } }])
          }
        }
        observe(e: Element) {
          watched.add(e)
        }
        unobserve(e: Element) {
          watched.delete(e)
        }
      },
    )
    Object.defineProperty(navigator, 'sendBeacon', {
      configurable: true,
      value: (url: string, body: string) => beacons.push([url, JSON.parse(body)]),
    })
    program = new Program()
    memory = (await import('./memory')).remembered('sundrey')
    show(card('gale'), card('sale'))
    await start()
  })

  it('is what half of was in sight for a second (MRC)', async () => {
    results.hold(state())
    see('gale', 0.49)
    await settle(1500)
    see('gale', 0.5)
    await settle(999)
    see('gale', 0.4)
    await settle(1500)
    see('gale', 0.6)
    see('gale', 0.7)
    await settle(999 + 2000)
    expect(told()).toEqual([])
    await settle(1)
    expect(told()).toEqual(['m1 0 seen', 'm1 0 visitors'])
    see('gale', 0)
    see('gale', 1)
    await settle(5000)
    expect(told(), 'once a view').toHaveLength(2)
  })

  it('is what covers half of the window, of what is larger than that', async () => {
    results.hold(state())
    see('gale', 0.2, innerHeight / 2 - 1)
    await settle(4000)
    expect(told()).toEqual([])
    see('gale', 0.2, innerHeight / 2)
    await settle(4000)
    expect(told()).toEqual(['m1 0 seen', 'm1 0 visitors'])
  })

  it('is nothing that nobody looks at', async () => {
    results.hold(state())
    see('gale', 1)
    await settle(500)
    turn(true)
    await settle(5000)
    expect(told()).toEqual([])
    turn(false)
    await settle(999)
    turn(true)
    turn(false)
    await settle(3000)
    expect(told()).toEqual(['m1 0 seen', 'm1 0 visitors'])
  })

  it.each([
    ['clicked', 'clicked'],
    ['close', 'closed'],
    ['sent', 'sent'],
    ['answered', 'answered'],
    ['accept', 'answered'],
    ['reject', 'answered'],
    ['save', 'answered'],
    ['fine', 'answered'],
    ['confirm', 'answered'],
    ['decline', 'answered'],
  ])('is a press on %s as %s, which is seen as well', async (what, act) => {
    results.hold(state())
    pressed('sale', what)
    pressed('sale', what)
    await settle(2000)
    expect(told()).toEqual(['m1 1 seen', 'm1 1 visitors', `m1 1 ${act}`])
  })

  it('is no other press, nothing in a preview, and nothing that the answer does not carry', async () => {
    results.hold(state())
    pressed('gale', 'more')
    page.quiet.mockReturnValue('token')
    pressed('gale', 'close')
    page.quiet.mockReturnValue('')
    results.hold(state({ shown: ['other 1 en'] }))
    pressed('gale', 'close')
    results.hold(undefined)
    pressed('gale', 'close')
    await settle(5000)
    expect(told()).toEqual([])
  })

  it('says where a bar for the top stands at the bottom, once it is seen', async () => {
    const under = document.createElement('mastflag-under')
    document.documentElement.append(under)
    show(card('gale', { slot: 'top' }), card('sale', { slot: 'bottom' }))
    results.hold(state())
    under.append(roots.sale!.host)
    pressed('sale', 'clicked')
    pressed('gale', 'clicked')
    await settle(2000)
    under.append(roots.gale!.host)
    results.hold(state({ mark: 'm2' }))
    view = 'v2'
    results.hold(state({ mark: 'm2' }))
    pressed('sale', 'clicked')
    pressed('gale', 'clicked')
    await settle(2000)
    under.remove()
    expect(
      program.told.map(({ body }) => [(body as { mark: string }).mark, (body as { blocked?: true }).blocked]),
    ).toEqual([
      ['m1', undefined],
      ['m2', true],
    ])
  })

  it('is told in batches, of two seconds, each under its mark', async () => {
    results.hold(state())
    pressed('gale', 'clicked')
    await settle(1500)
    pressed('sale', 'close')
    await settle(1999)
    expect(program.told).toHaveLength(0)
    await settle(1)
    expect(program.told).toHaveLength(1)
    expect(program.told[0]).toMatchObject({ url: '/r/sundrey/counts', body: { mark: 'm1', page: '/fares' } })
    view = 'v2'
    results.hold(state({ mark: 'm2' }))
    pressed('gale', 'clicked')
    await settle(2000)
    expect(told().slice(-2), 'another view counts again; the visitor does not').toEqual(['m2 0 seen', 'm2 0 clicked'])
  })

  it.each([
    [400, 1],
    [404, 1],
    [429, 2],
    [500, 2],
    [503, 2],
  ])('after %s is told %s times', async (status, times) => {
    const fetched = vi.fn(() => Promise.resolve({ status: fetched.mock.calls.length > 1 ? 204 : status }))
    vi.stubGlobal('fetch', fetched)
    results.hold(state())
    pressed('gale', 'clicked')
    await settle(2000)
    expect(fetched).toHaveBeenCalledTimes(1)
    await settle(20_000)
    expect(fetched).toHaveBeenCalledTimes(times)
    await settle(60_000)
    expect(fetched, 'settled').toHaveBeenCalledTimes(times)
    expect(memory.kept.uncounted).toEqual([])
  })

  it('is kept until it has arrived, and told on the next page; what is done meanwhile by itself', async () => {
    let give!: (r: { status: number }) => void
    vi.stubGlobal('fetch', () => new Promise((r) => (give = r)))
    results.hold(state())
    pressed('gale', 'clicked')
    await settle(2000)
    pressed('gale', 'close')
    expect(memory.kept.uncounted!.map((r) => r.acts.map((a) => a.act))).toEqual([
      ['seen', 'visitors', 'clicked'],
      ['closed'],
    ])
    give({ status: 500 })
    await settle()
    await freshPageWithMemory()
    await settle(10)
    expect(told()).toEqual(['m1 0 seen', 'm1 0 visitors', 'm1 0 clicked', 'm1 0 closed'])
    expect(memory.kept.uncounted).toEqual([])
  })
  const freshPageWithMemory = async () => {
    const kept = localStorage.getItem('mastflag.sundrey')!
    await freshPage()
    localStorage.setItem('mastflag.sundrey', kept)
    program = new Program()
    memory = (await import('./memory')).remembered('sundrey')
    await start()
  }

  it('is told when the page is left, and kept as it may not have arrived', async () => {
    results.hold(state())
    pressed('gale', 'clicked')
    dispatchEvent(new Event('pagehide'))
    expect(beacons).toEqual([['/r/sundrey/counts', expect.objectContaining({ mark: 'm1' })]])
    await settle(2000)
    expect(program.told).toHaveLength(1)
    turn(true)
    expect(beacons).toHaveLength(1)
    turn(false)
  })

  it('is not kept where nothing may be, and told once as the page is left', async () => {
    results.hold(state({ keep: false }))
    pressed('gale', 'clicked')
    expect(memory.kept).toEqual({ notices: {} })
    dispatchEvent(new Event('pagehide'))
    dispatchEvent(new Event('pagehide'))
    expect(beacons).toHaveLength(1)
    await settle(5000)
    expect(told()).toEqual([])
  })

  it('forgets what helped to count once it may not be kept', () => {
    memory.change((k) => Object.assign(k, { met: { gale: {} }, draw: 'd', uncounted: [], properties: { 'a.b': 1 } }))
    results.hold(state({ keep: false, properties: ['a.b'] }))
    expect(memory.kept).toEqual({ notices: {}, properties: { 'a.b': 1 } })
    results.hold(state({ keep: false }))
    expect(memory.kept).toEqual({ notices: {}, properties: {} })
  })

  describe('of a goal', () => {
    const goals = { gale: { within: 60_000, event: 'booking', least: 10 } }
    const meet = () => pressed('gale', 'clicked')
    const happened = (name: string, properties?: Record<string, unknown>) => {
      page.events.push([name, properties])
      results.placed()
    }
    const reached = async () => (await settle(2000), told().filter((t) => t.endsWith('reached')))

    it('is that it was reached in time, once a visitor', async () => {
      results.hold(state({ goals }))
      happened('booking', { value: 10 })
      expect(await reached(), 'it had not been met').toEqual([])
      meet()
      happened('left', { value: 10 })
      happened('booking', { value: 9.5 })
      happened('booking')
      expect(await reached()).toEqual([])
      await settle(50_000)
      view = 'v2'
      results.hold(state({ goals, mark: 'm2' }))
      happened('booking', { value: 10 })
      happened('booking', { value: 11 })
      expect(await reached(), 'under the mark of the view where it was met').toEqual(['m1 0 reached'])
      expect(memory.kept.notices.gale?.converted, 'nobody asks about it').toBeUndefined()
    })
    it('is not that it was reached later', async () => {
      results.hold(state({ goals }))
      meet()
      await settle(60_001)
      happened('booking', { value: 10 })
      expect(await reached()).toEqual([])
      results.hold(state({ goals }))
      expect(memory.kept.met, 'it needs no mark any more').toEqual({ gale: {} })
    })
    it('is remembered where an audience asks', async () => {
      results.hold(state({ goals: { gale: { within: 1000, event: 'booking', keep: true } } }))
      meet()
      happened('booking')
      expect(await reached()).toEqual(['m1 0 reached'])
      expect(memory.kept.notices.gale).toMatchObject({ converted: expect.any(String), counts: { converted: 1 } })
    })
    it('is a press on its link, its form sent, or its page', async () => {
      results.hold(state({ goals: { gale: { within: 60_000, link: true }, sale: { within: 60_000, form: true } } }))
      pressed('gale', 'close')
      pressed('sale', 'clicked')
      expect(await reached()).toEqual([])
      pressed('gale', 'clicked')
      pressed('sale', 'sent')
      expect(await reached()).toEqual(['m1 0 reached', 'm1 1 reached'])
    })
    it('is the page that it is on, met here or before', async () => {
      results.hold(state({ goals: { gale: { within: 5000 } }, reached: ['gale'] }))
      meet()
      expect(await reached()).toEqual(['m1 0 reached'])
      await freshPage()
      memory = (await import('./memory')).remembered('sundrey')
      program = new Program()
      await start()
      results.hold(state({ goals: { gale: { within: 5000 } } }))
      meet()
      await settle(2000)
      results.hold(state({ goals: { gale: { within: 5000 } }, reached: ['gale'], mark: 'm2' }))
      expect(await reached()).toEqual(['m1 0 reached'])
    })
    it('keeps the last hundred meetings', () => {
      memory.change((k) => (k.met = Object.fromEntries(Array.from({ length: 120 }, (_, i) => [`n${i}`, {}]))))
      results.hold(state())
      meet()
      expect(Object.keys(memory.kept.met!)).toHaveLength(100)
      expect(Object.keys(memory.kept.met!).at(-1)).toBe('gale')
    })
  })

  describe('of who is held out', () => {
    const held = (more: Partial<CountState> = {}) => state({ shown: ['sale 2 en held-out'], ...more })
    it('is when they would have seen it', async () => {
      bars = []
      results.hold(held())
      await settle(999)
      expect(memory.kept.met).toBeUndefined()
      await settle(2001)
      expect(told()).toEqual(['m1 0 visitors'])
    })
    it('is not while what it waits for has not come true', async () => {
      bars = []
      const rest = { fact: 'view.scroll' } as never
      results.hold(held({ held: { 0: rest } }))
      await settle(5000)
      expect(told()).toEqual([])
      page.holds.mockReturnValue(true)
      results.placed()
      await settle(3000)
      expect(page.holds).toHaveBeenCalledWith(rest)
      expect(told()).toEqual(['m1 0 visitors'])
    })
  })

  describe('of what may lie below', () => {
    const box = (e: Element, top: number, bottom: number) => {
      e.getClientRects = () => [{}] as never
      e.getBoundingClientRect = () => ({ top, bottom }) as never
    }
    const places = (spots: unknown[] | undefined) =>
      state({ shown: ['gale 1 en a'], places: { 0: { spots } as never } })
    const visitors = async () => (await settle(4000), told())
    it('is where it begins, once that was in the window for a second', async () => {
      box(roots.gale!.querySelector('.bar')!, innerHeight + 1, 2000)
      results.hold(places([{ selector: 'h1', where: 'after' }]))
      expect(await visitors()).toEqual([])
      box(roots.gale!.querySelector('.bar')!, innerHeight, 2000)
      expect(await visitors()).toEqual(['m1 0 visitors'])
    })
    it.each([
      ['after', false],
      ['last', false],
      ['before', true],
      ['first', true],
      ['instead', true],
    ])('is at its element for who is held out: %s', async (where, byTop) => {
      const h1 = document.querySelector('h1')!
      bars = []
      const out = { ...places([{ selector: 'h1', where }]), shown: ['gale 1 en held-out'] }
      box(h1, 10, innerHeight + 10)
      results.hold(out)
      expect((await visitors()).length).toBe(byTop ? 1 : 0)
      box(h1, -10, 10)
      expect(await visitors()).toEqual(['m1 0 visitors'])
    })
    it('is nothing where its place is not on the page, or not drawn', async () => {
      results.hold(places([{ selector: '.none', where: 'after' }]))
      expect(await visitors()).toEqual([])
    })
    it('is at the end of the page where it has no spots', async () => {
      bars = []
      const out = { ...places(undefined), shown: ['gale 1 en held-out'] }
      box(document.body, 0, innerHeight + 1)
      results.hold(out)
      expect(await visitors()).toEqual([])
      box(document.body, -100, innerHeight)
      expect(await visitors()).toEqual(['m1 0 visitors'])
    })
  })

  it('is of a title at once, and of who leaves it and comes back', async () => {
    show(card('gale', { slot: 'title', tab: { first: 1, gap: 1 } }))
    results.hold(state())
    await settle(3000)
    expect(told()).toEqual(['m1 0 seen', 'm1 0 visitors'])
    turn(true)
    turn(false)
    await settle(3000)
    expect(told().slice(2)).toEqual(['m1 0 left', 'm1 0 back'])
  })

  it('knows what comes after it was first looked for, and forgets what left', async () => {
    roots.gale!.host.remove()
    results.hold(state())
    await settle()
    expect(watched.size).toBe(1)
    document.body.append(roots.gale!.host)
    results.placed()
    await settle()
    expect(watched.size).toBe(2)
    roots.gale!.host.remove()
    see('gale', 0)
    expect(watched.size).toBe(1)
  })

  it('keeps the properties that are wanted, and asks again with them', async () => {
    results.hold(state({ properties: ['booking.value', 'booking.first'] }))
    expect(page.ask).not.toHaveBeenCalled()
    page.events.push(['booking', { value: 3, first: true, other: 'x' }], ['booking', { value: { deep: 1 } }])
    results.hold(state({ properties: ['booking.value', 'booking.first'] }))
    expect(memory.kept.properties).toEqual({ 'booking.value': 3, 'booking.first': true })
    expect(page.ask).toHaveBeenCalledTimes(1)
    expect(page.events).toEqual([])
    results.hold(state({ properties: ['booking.value'] }))
    expect(memory.kept.properties).toEqual({ 'booking.value': 3 })
    expect(page.ask).toHaveBeenCalledTimes(1)
  })

  it('fills in what is known of the visitor', async () => {
    roots.gale!.innerHTML =
      '<div class="bar"><b data-personal="person.name">you</b><i data-personal="event.booking.value">some</i></div>'
    page.person.name = 'Ada'
    memory.change((k) => (k.properties = { 'booking.value': 3 }))
    results.hold(state({ properties: ['booking.value'] }))
    expect(roots.gale!.textContent).toBe('Ada3')
    page.person.name = ''
    results.placed()
    await settle()
    expect(roots.gale!.textContent).toBe('you3')
  })

  it('makes the draw once, where it can be kept', async () => {
    const { draw } = await import('./results')
    expect(draw(memory)).toBe(true)
    const first = memory.kept.draw
    expect(first).toMatch(/^[0-9a-f]{32}$/)
    draw(memory)
    expect(memory.kept.draw).toBe(first)
    vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new Error('full')
    })
    expect(draw(memory)).toBe(false)
  })
})
