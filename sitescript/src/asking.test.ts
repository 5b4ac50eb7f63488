import { beforeEach, describe, expect, it, vi } from 'vitest'
import { answer, freshPage, instant, Program, settle } from './testing/program'

describe('asking', () => {
  let asking: typeof import('./asking')
  beforeEach(async () => {
    await freshPage()
    asking = await import('./asking')
    ;(await import('./program')).connect('https://program.test', { mastflag: 'sundrey' })
  })

  it('asks in plain text, without cookies, and takes the answer', async () => {
    const program = new Program(answer([]))
    const fetched = vi.fn(fetch)
    vi.stubGlobal('fetch', fetched)
    expect(asking.lastAsking()).toBe(0)
    expect(asking.isAnswered()).toBe(false)
    const n = asking.beginAsking()
    expect(n).toBe(1)
    expect(asking.lastAsking()).toBe(1)
    expect(asking.isAnswered()).toBe(false)
    expect(await asking.send(n, { url: 'x' })).toMatchObject({ show: [] })
    expect(asking.isAnswered()).toBe(true)
    expect(program.last).toEqual({ url: 'x' })
    const [address, options] = fetched.mock.calls[0]!
    expect(address).toBe('https://program.test/d/sundrey')
    expect(options).toMatchObject({ method: 'POST', credentials: 'omit' })
    expect(options).not.toHaveProperty('headers')
    expect(options!.signal!.aborted).toBe(false)
  })

  it('does not take an answer that another has overtaken', async () => {
    let late!: (a: ReturnType<typeof answer>) => void
    new Program(new Promise((r) => (late = r)), answer([]))
    const first = asking.send(asking.beginAsking(), {})
    expect(await asking.send(asking.beginAsking(), {})).toBeDefined()
    late(answer([]))
    expect(await first).toBeUndefined()
  })

  it('takes the later answer though an earlier one came before', async () => {
    new Program(answer([]))
    expect(await asking.send(asking.beginAsking(), {})).toBeDefined()
    expect(await asking.send(asking.beginAsking(), {})).toBeDefined()
  })

  it('throws the status that it is refused with', async () => {
    new Program(410)
    await expect(asking.send(asking.beginAsking(), {})).rejects.toBe(410)
    expect(asking.isAnswered()).toBe(false)
  })

  it('takes the server’s clock as it was in the middle of the way', async () => {
    const clock = await import('./clock')
    let give!: (a: ReturnType<typeof answer>) => void
    new Program(new Promise((r) => (give = r)))
    const sent = asking.send(asking.beginAsking(), {})
    vi.setSystemTime(instant + 400)
    give(answer([], { at: instant + 60_200 }))
    await sent
    expect(clock.now()).toBe('2026-12-04T12:01:00.400Z')
    expect(clock.local(instant + 60_000)).toBe(instant)
  })

  it('asks again in so long, once, and never all at once or too late for a timer', async () => {
    const ask = vi.fn()
    asking.askIn(1000, ask)
    await settle(1019)
    expect(ask).not.toHaveBeenCalled()
    await settle(1)
    expect(ask).toHaveBeenCalledTimes(1)
    asking.askIn(-5000, ask)
    await settle(20)
    expect(ask).toHaveBeenCalledTimes(2)
    asking.askIn(1e12, ask)
    await settle(1e9)
    expect(ask).toHaveBeenCalledTimes(2)
    asking.beginAsking()
    await settle(2e9)
    expect(ask, 'an asking meanwhile takes the place of the one that was planned').toHaveBeenCalledTimes(2)
  })

  it('asks later and later while the server cannot be had, up to ten minutes', async () => {
    vi.spyOn(Math, 'random').mockReturnValue(1)
    const waits: number[] = []
    for (const minutes of [1, 2, 4, 8, 10, 10]) {
      const ask = vi.fn()
      asking.askLater(asking.beginAsking(), new TypeError('away'), ask)
      await settle(minutes * 75_000 + 19)
      expect(ask, `${minutes} min`).not.toHaveBeenCalled()
      await settle(1)
      expect(ask).toHaveBeenCalledTimes(1)
      waits.push(minutes)
    }
    // Once it answered, it is asked as soon as the first time.
    new Program(answer([]))
    await asking.send(asking.beginAsking(), {})
    const ask = vi.fn()
    vi.spyOn(Math, 'random').mockReturnValue(0)
    asking.askLater(asking.beginAsking(), 503, ask)
    await settle(60_019)
    expect(ask).not.toHaveBeenCalled()
    await settle(1)
    expect(ask).toHaveBeenCalledTimes(1)
  })

  it.each([
    [400, false],
    [403, false],
    [404, false],
    [499, false],
    [408, true],
    [429, true],
    [500, true],
    [503, true],
    [new Error('broken answer'), true],
  ])('after %s asks again: %s', async (why, again) => {
    const ask = vi.fn()
    asking.askLater(asking.beginAsking(), why, ask)
    await settle(900_000)
    expect(ask).toHaveBeenCalledTimes(again ? 1 : 0)
  })

  it('leaves it to the asking that came after', async () => {
    const ask = vi.fn()
    const first = asking.beginAsking()
    asking.beginAsking()
    asking.askLater(first, 503, ask)
    await settle(900_000)
    expect(ask).not.toHaveBeenCalled()
  })
})

describe('the clock', () => {
  it('notices that it was set, or that the machine slept', async () => {
    await freshPage()
    const clock = await import('./clock')
    expect(clock.lastAsked()).toBe(0)
    clock.forgetAsking()
    expect(clock.lastAsked(), 'there was none to forget').toBe(0)
    clock.noteAsking()
    expect(clock.lastAsked()).toBe(instant)
    await settle(60_000)
    expect(clock.wasSet()).toBe(false)
    for (const [by, is] of [
      [2_999, false],
      [3_001, true],
      [-2_999, false],
      [-3_001, true],
    ] as const) {
      vi.setSystemTime(instant + 60_000 + by)
      expect(clock.wasSet(), String(by)).toBe(is)
    }
    clock.forgetAsking()
    expect(clock.lastAsked()).toBe(1)
  })
})
