import { beforeEach, describe, expect, it, vi } from 'vitest'
import { freshPage, instant, settle } from './testing/program'

const parts = vi.hoisted(() => ({ bring: vi.fn() }))
vi.mock('./bring', () => parts)

describe('facts', () => {
  let facts: typeof import('./facts')
  let memory: import('./memory').Memory
  beforeEach(async () => {
    await freshPage()
    parts.bring.mockReset()
    facts = await import('./facts')
    memory = (await import('./memory')).remembered('sundrey')
    ;(await import('./program')).connect('https://program.test', { mastflag: 'sundrey', visits: '/a/visits.js' })
    vi.stubGlobal('Temporal', { Now: { timeZoneId: () => 'Europe/London' } })
  })

  it('are the zone, and only what is wanted', () => {
    facts.setWants('v1:page.title')
    expect(facts.wantsVersion()).toBe('v1')
    expect(facts.facts(memory)).toEqual({ 'locale.zone': 'Europe/London', 'page.title': 'Fares' })
    expect(facts.isWanted('page.title')).toBe(true)
    expect(facts.isWanted('device.width')).toBe(false)
  })
  it('take the zone from Intl where there is no Temporal', () => {
    vi.stubGlobal('Temporal', undefined)
    facts.setWants('')
    expect(facts.facts(memory)).toEqual({ 'locale.zone': Intl.DateTimeFormat().resolvedOptions().timeZone })
    expect(facts.wantsVersion()).toBe('')
  })
  it('say what the page and the site know, by their room or their whole name, and nothing of what is unknown', () => {
    facts.setWants('2:device.width,referrer.url,person.plan,person.trips.last,event.booking.value,unheard.of')
    facts.person.plan = 'gold'
    facts.person['trips.last'] = 3
    facts.more['consent.signal'] = 'gpc'
    memory.change((k) => (k.properties = { 'booking.value': 12 }))
    const all = facts.facts(memory)
    expect(all).toEqual({
      'locale.zone': 'Europe/London',
      'consent.signal': 'gpc',
      'device.width': innerWidth,
      'person.plan': 'gold',
      'person.trips.last': 3,
      'event.booking.value': 12,
    })
    vi.spyOn(document, 'referrer', 'get').mockReturnValue('https://mail.test/')
    expect(facts.facts(memory)).toMatchObject({ 'referrer.url': 'https://mail.test/' })
  })
  it('are asked for anew only where some are wanted and none were', () => {
    expect(facts.setWants('1:')).toBe(false)
    expect(facts.setWants('2:page.title')).toBe(true)
    expect(facts.setWants('3:device.width')).toBe(false)
    expect(facts.setWants('4:')).toBe(false)
  })
  it.each(['visits.number', 'site.seconds'])('load what counts visits where %s is wanted, once', async (wanted) => {
    const visits = { see: vi.fn(), leave: vi.fn(), spent: () => 7, fact: (name: string) => `${name}!` }
    const start = vi.fn(() => visits)
    parts.bring.mockResolvedValue({ start })
    facts.setWants('1:page.title')
    await facts.countVisit(memory)
    expect(parts.bring).not.toHaveBeenCalled()
    expect(facts.spentBefore()).toBe(0)
    facts.leaveView()

    facts.setWants(`2:${wanted}`)
    await facts.countVisit(memory)
    await facts.countVisit(memory)
    expect(parts.bring.mock.calls).toEqual([['https://program.test/a/visits.js']])
    expect(start).toHaveBeenCalledWith(memory, expect.any(Function))
    expect(visits.see.mock.calls).toEqual([['/fares'], ['/fares']])
    expect(facts.spentBefore()).toBe(7)
    facts.leaveView()
    expect(visits.leave).toHaveBeenCalledTimes(1)
    if (wanted === 'visits.number') expect(facts.facts(memory)).toMatchObject({ 'visits.number': 'number!' })
  })
  it('know nothing of visits where that cannot be loaded, and go on', async () => {
    parts.bring.mockRejectedValue(404)
    facts.setWants('1:visits.number')
    await facts.countVisit(memory)
    expect(facts.facts(memory)).not.toHaveProperty('visits.number')
  })
})

describe('the page view', () => {
  it('is one path, from when the visitor came to it', async () => {
    await freshPage('/fares?day=1#top')
    const view = await import('./view')
    expect(view.hasMoved(), 'nothing was asked about').toBe(true)
    expect(view.noteAddress()).toBe(`${location.origin}/fares?day=1`)
    expect(view.hasMoved()).toBe(false)
    history.replaceState(null, '', '/fares?day=1#end')
    expect(view.hasMoved(), 'by its fragment').toBe(false)
    expect(view.startNextView()).toBe(false)
    expect(view.begin('2026-12-04T12:00:00Z')).toBe(true)
    expect(view.begin('2026-12-04T12:00:01Z')).toBe(false)
    expect(view.viewBegan()).toBe('2026-12-04T12:00:00Z')
    await settle(1500)
    expect(view.seconds()).toBe(1.5)

    history.pushState(null, '', '/fares?day=2')
    expect(view.hasMoved(), 'by its query').toBe(true)
    expect(view.startNextView(), 'another query is no other view').toBe(false)
    expect(view.viewBegan()).toBe('2026-12-04T12:00:00Z')
    history.pushState(null, '', '/ports')
    expect(view.startNextView()).toBe(true)
    expect([view.viewPath(), view.viewBegan(), view.viewSince()]).toEqual(['/ports', '', instant + 1500])
    expect(view.startNextView()).toBe(false)
    expect(view.seconds()).toBe(0)
  })
  it('is one route, where the site has pages behind a #', async () => {
    await freshPage('/app?day=1#/ports?from=mail#top')
    ;(await import('./program')).connect('', { routes: '1' })
    const view = await import('./view')
    const at = location.origin + '/app?day=1'
    expect(view.noteAddress()).toBe(`${at}#/ports?from=mail`)
    expect([view.startNextView(), view.viewPath()]).toEqual([false, '/app#/ports'])
    for (const [to, address, path] of [
      ['#/ports?from=post', '#/ports?from=post', '/app#/ports'],
      ['#!/fares/', '#!/fares/', '/app#!/fares/'],
      ['#/', '#/', '/app'],
      ['#ports/x', '', '/app'],
    ]) {
      const before = view.viewPath()
      history.replaceState(null, '', `/app?day=1${to}`)
      expect(view.hasMoved(), to).toBe(true)
      expect(view.noteAddress(), to).toBe(at + address)
      expect(view.startNextView(), to).toBe(before !== path)
      expect([view.viewPath(), view.askedAddress()], to).toEqual([path, at + address])
    }
  })
})

describe('what the site tells', () => {
  type Told = { mastflag: { person(t: object): void; event(n: string, p?: object): void } }
  it('is of the person: strings, numbers and booleans', async () => {
    await freshPage()
    const { takeCalls } = await import('./calls')
    const { person } = await import('./facts')
    const told = vi.fn()
    takeCalls(() => ({ plan: person.plan }), told)
    const { mastflag } = window as unknown as Told
    mastflag.person({ plan: 'gold', trips: 3, staff: false, list: ['x'], none: null, when: () => 1 })
    expect(person).toEqual({ plan: 'gold', trips: 3, staff: false, list: undefined, none: undefined, when: undefined })
    expect(told.mock.calls).toEqual([[true]])
    mastflag.person({ plan: 'gold', trips: 4 })
    expect(told.mock.calls[1], 'what is sent is as before').toEqual([false])
  })
  it('is of what happened; what the line in the page kept comes first', async () => {
    await freshPage()
    const { takeCalls, events } = await import('./calls')
    const { person } = await import('./facts')
    const page = window as unknown as { mastflag: { q: unknown[] } }
    page.mastflag = {
      q: [
        ['event', 'booking', { value: 2 }],
        ['person', { plan: 'gold' }],
      ],
    }
    const told = vi.fn()
    takeCalls(() => person, told)
    ;(window as unknown as Told).mastflag.event('left')
    expect(events).toEqual([
      ['booking', { value: 2 }],
      ['left', undefined],
    ])
    expect(person.plan).toBe('gold')
    expect(told.mock.calls).toEqual([[false, 'booking'], [true], [false, 'left']])
  })
})
