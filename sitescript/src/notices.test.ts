import { beforeEach, describe, expect, it, vi } from 'vitest'
import { answer, card, freshPage, settle } from './testing/program'
import type { Bar, Waiting } from './shapes'

const parts = vi.hoisted(() => ({ bring: vi.fn() }))
vi.mock('./bring', () => parts)

const scrolled = { fact: 'view.scroll', is: 'gte', value: 30 } as const
const waiting = (bar: Bar, remainder: object = scrolled): Waiting => ({ ...bar, remainder }) as Waiting

describe('which notices show', () => {
  let notices: typeof import('./notices')
  let waits: typeof import('./waits')
  let answering: typeof import('./answering')
  const met = new Set<unknown>()
  const ids = (standing: string[] = []) => notices.showing(standing).map((b) => b.id)
  beforeEach(async () => {
    await freshPage()
    met.clear()
    parts.bring.mockReset().mockResolvedValue({
      watching: () => ({ add: vi.fn(), restart: vi.fn(), holds: (r: { value: unknown }) => met.has(r.value) }),
    })
    notices = await import('./notices')
    waits = await import('./waits')
    answering = await import('./answering')
    ;(await import('./program')).connect('', { consent: '/a/consent.js', remainder: '/a/remainder.js' })
  })

  it('is as the server decided, in its order', () => {
    expect(ids()).toEqual([])
    notices.takeDecision(answer([card('b', { order: 2 }), card('a')]), 1)
    expect(ids()).toEqual(['b', 'a'])
  })

  it('lets in what no longer waits, by rank, as far as there is room (rules A5 and D1)', async () => {
    await waits.watchFor([scrolled], vi.fn())
    const shown = [
      card('first', { order: 1 }),
      card('third', { order: 3 }),
      card('elsewhere', { slot: 'top', order: 9 }),
    ]
    notices.takeDecision(
      answer(shown, { waiting: [waiting(card('second', { order: 2 }))], capacity: { 'corner-end': 2 } }),
      1,
    )
    expect(ids()).toEqual(['first', 'third', 'elsewhere'])
    met.add(30)
    expect(ids()).toEqual(['first', 'second', 'elsewhere'])
  })

  it('has room without end where nothing is said of a slot', async () => {
    await waits.watchFor([scrolled], vi.fn())
    met.add(30)
    notices.takeDecision(answer([card('a', { order: 2 })], { waiting: [waiting(card('b'))] }), 1)
    expect(ids()).toEqual(['b', 'a'])
  })

  it('leaves what is open in the middle, whatever cover or dialog it is (rule D3)', async () => {
    await waits.watchFor([scrolled], vi.fn())
    met.add(30)
    const open = card('open', { slot: 'cover', order: 5 })
    notices.takeDecision(
      answer([open], { waiting: [waiting(card('better', { slot: 'centre' }))], capacity: { centre: 1 } }),
      1,
    )
    expect(ids(['open'])).toEqual(['open'])
    expect(ids([]), 'it had not opened yet').toEqual(['better'])
    expect(ids(['better'])).toEqual(['better'])
  })

  it('is without what was taken off, in answers that had not heard of it', () => {
    const both = answer([card('a'), card('b')], { waiting: [waiting(card('c'))] })
    notices.takeDecision(both, 1)
    notices.takeOff(card('a'), 2)
    expect(ids()).toEqual(['b'])
    notices.takeDecision(both, 2)
    expect(ids(), 'to that asking').toEqual(['b'])
    notices.takeDecision(both, 3)
    expect(ids(), 'to a later one').toEqual(['a', 'b'])
  })

  it('takes off what waits as well', async () => {
    await waits.watchFor([scrolled], vi.fn())
    met.add(30)
    notices.takeDecision(answer([], { waiting: [waiting(card('c'))] }), 1)
    expect(ids()).toEqual(['c'])
    notices.takeOff(card('c'), 1)
    expect(ids()).toEqual([])
    notices.takeDecision(answer([], { waiting: [waiting(card('c'))] }), 1)
    expect(ids()).toEqual([])
  })

  it('shows a question once what takes its answer is there', async () => {
    let arrive!: (m: object) => void
    parts.bring.mockReturnValue(new Promise((r) => (arrive = r)))
    const asks = answer([card('a'), card('ask', { hash: 'x' }), card('terms', { disclaims: {} as never })], {
      consent: { rule: 'opt-in' } as never,
    })
    notices.takeDecision(asks, 1)
    answering.loadAnsweringParts(asks, {})
    expect(ids()).toEqual(['a'])
    arrive({ start: () => ({ hold: vi.fn(), act: vi.fn() }) })
    await answering.answeringPartsLoaded()
    expect(ids(), 'nothing takes answers to disclaimers here').toEqual(['a', 'ask'])
  })
})

describe('what takes answers', () => {
  it('is loaded once where there is something to take, and tried again where that failed', async () => {
    await freshPage()
    const { loadAnsweringParts, answeringPartsLoaded, hold, withAnsweringParts, isReady } = await import('./answering')
    ;(await import('./program')).connect('', { consent: '/c', disclaimer: '/d', results: '/r' })
    const taker = { hold: vi.fn(), act: vi.fn() }
    const start = vi.fn(() => taker)
    parts.bring
      .mockReset()
      .mockImplementation((at: string) => (at === '/c' ? Promise.resolve({ start }) : Promise.reject(404)))
    const page = {}
    const first = answer([], { consent: { rule: 'opt-in' } as never, disclaimer: {} as never })
    loadAnsweringParts(first, page)
    loadAnsweringParts(first, page)
    const seen = vi.fn()
    withAnsweringParts((t, name) => seen(t, name))
    expect(seen).not.toHaveBeenCalled()
    await answeringPartsLoaded()
    expect(seen.mock.calls, 'once it is there').toEqual([[taker, 'consent']])
    expect(parts.bring).toHaveBeenCalledTimes(2)
    expect(start.mock.calls).toEqual([[page]])
    expect(isReady(card('ask', { hash: 'x' }))).toBe(true)
    expect(isReady(card('terms', { disclaims: {} as never }))).toBe(false)
    expect(isReady(card('a'))).toBe(true)

    const bars = [card('a')]
    hold(first, bars)
    expect(taker.hold).toHaveBeenLastCalledWith(first.consent, bars)
    hold(answer([]), bars)
    expect(taker.hold, 'nothing is asked any more').toHaveBeenLastCalledWith(undefined, bars)
    loadAnsweringParts(answer([], { disclaimer: {} as never, results: {} as never }), page)
    expect(parts.bring.mock.calls.map(([at]) => at as string)).toEqual(['/c', '/d', '/d', '/r'])
    await answeringPartsLoaded()
  })
})

describe('what waits', () => {
  it('is watched for by a part that is loaded where something waits', async () => {
    await freshPage()
    const { watchFor, holds, restartWatch } = await import('./waits')
    ;(await import('./program')).connect('', { remainder: '/a/remainder.js' })
    const watch = { add: vi.fn(), restart: vi.fn(), holds: vi.fn(() => true) }
    const watching = vi.fn(() => watch)
    parts.bring.mockReset().mockRejectedValueOnce(404).mockResolvedValue({ watching })
    const changed = vi.fn()
    restartWatch()
    await watchFor([], changed)
    expect(parts.bring).not.toHaveBeenCalled()
    await watchFor([scrolled], changed)
    expect(holds(scrolled), 'it could not be loaded').toBe(false)
    await watchFor([scrolled], changed)
    await watchFor([scrolled, scrolled], changed)
    expect(watching).toHaveBeenCalledTimes(1)
    expect(watching).toHaveBeenCalledWith(expect.any(Function), expect.any(Function), changed)
    expect(watch.add).toHaveBeenCalledTimes(3)
    expect(holds(scrolled)).toBe(true)
    restartWatch()
    expect(watch.restart).toHaveBeenCalledTimes(1)
    await settle()
  })
})
