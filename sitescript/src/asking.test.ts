import { beforeEach, describe, expect, it, vi } from 'vitest'
import { answer, card, freshPage, instant, Program, settle } from './testing/program'

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
    expect(program.last).toEqual({ url: 'x', have: [] })
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
    expect(clock.toLocal(instant + 60_000)).toBe(instant)
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
    asking.askIn(60_000, ask)
    asking.askIn(70_000, ask)
    await settle(80_000)
    expect(ask, 'what is planned takes the place of what was').toHaveBeenCalledTimes(3)
    asking.askIn(1e12, ask)
    asking.beginAsking()
    await settle(2e9)
    expect(ask, 'an asking meanwhile takes the place of the one that was planned').toHaveBeenCalledTimes(3)
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

describe('what was sent before', () => {
  let asking: typeof import('./asking')
  let shown: { id: string; html?: string; at?: number[] }[]
  const key = 'mastflag.sundrey.held'
  const page = async () => {
    vi.resetModules()
    asking = await import('./asking')
    ;(await import('./program')).connect('https://program.test', { mastflag: 'sundrey' })
  }
  const ask = async () => (shown = (await asking.send(asking.beginAsking(), {}))!.show)
  const short = (id: string, more = {}) => ({ id, tag: `of ${id}`, ...more }) as never
  beforeEach(async () => {
    await freshPage()
    await page()
  })

  it('is not sent again: on this page, and on the next ones of the visit', async () => {
    const program = new Program(
      answer([card('gale', { at: [1] })]),
      answer([short('gale')]),
      answer([short('gale', { at: [2] })]),
    )
    await ask()
    expect(program.last.have).toEqual([])
    await ask()
    expect(program.last.have).toEqual(['of gale'])
    expect(shown).toEqual([expect.objectContaining({ id: 'gale', html: card('gale').html })])
    expect(shown[0], 'where it stands is of its page').not.toHaveProperty('at', [1])
    await page()
    await ask()
    expect(program.last.have).toEqual(['of gale'])
    expect(shown).toEqual([expect.objectContaining({ html: card('gale').html, at: [2] })])
  })

  it('is what waits, and what there is to know of consent, as well', async () => {
    const consent = (part: object) => ({ rule: 'opt-in', part }) as never
    const remainder = { fact: 'view.scroll' } as never
    const program = new Program(
      answer([], { waiting: [{ ...card('later'), remainder }], consent: consent({ tag: 'c', names: { a: 'A' } }) }),
      answer([short('later')], { consent: consent({ tag: 'c' }) }),
    )
    await ask()
    const second = await asking.send(asking.beginAsking(), {})
    expect(program.last.have).toEqual(['of later', 'c'])
    expect(second).toMatchObject({ show: [{ html: card('later').html }], consent: { part: { names: { a: 'A' } } } })
    expect(second!.show[0], 'it waits no longer').not.toHaveProperty('remainder', remainder)
  })

  it('is the last forty, and written only where that has changed', async () => {
    const many = Array.from({ length: 41 }, (_, i) => card(`n${i}`))
    const write = vi.spyOn(Storage.prototype, 'setItem')
    const program = new Program(answer(many), answer([short('n40')]))
    await ask()
    await ask()
    expect(program.last.have).toHaveLength(40)
    expect(program.last.have[0]).toBe('of n1')
    expect(write).toHaveBeenCalledTimes(1)
  })

  it('is nothing of what has no tag', async () => {
    const program = new Program(
      answer([card('gale', { tag: undefined, fold: ['x'] }), card('sale', { tag: undefined })]),
    )
    await ask()
    await ask()
    expect(program.last.have).toEqual([])
    expect(shown[1]).not.toHaveProperty('fold')
  })

  it('is not kept for the next page where it is large', async () => {
    const program = new Program(answer([card('gale', { html: 'x'.repeat(200_000) })]), answer([short('gale')]))
    await ask()
    await ask()
    expect(program.last.have, 'on this page it is held').toEqual(['of gale'])
    expect(sessionStorage.getItem(key)).toBeNull()
  })

  it.each(['not JSON', '{"of gale":', 'null', '7', '"text"', '[null]', '{"of gale":null}', '{"of gale":{"tag":"x"}}'])(
    'is nothing where %s stands',
    async (text) => {
      sessionStorage.setItem(key, text)
      const program = new Program(answer([card('gale')]))
      await ask()
      expect(program.last.have).toEqual([])
      expect(JSON.parse(sessionStorage.getItem(key)!)).toHaveProperty(['of gale'])
    },
  )

  it('is held as long as the page where nothing can be kept, and never in a preview', async () => {
    vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new Error('full')
    })
    const program = new Program(answer([card('gale')]), answer([short('gale')]))
    await ask()
    await ask()
    expect(program.last.have).toEqual(['of gale'])
    expect(shown[0]!.html).toBe(card('gale').html)

    vi.restoreAllMocks()
    await freshPage()
    sessionStorage.setItem('mastflag.sundrey.preview', 'token')
    await page()
    void (await import('./preview')).takeToken()
    const draft = new Program(answer([card('draft')]))
    await ask()
    await ask()
    expect(draft.last.have).toEqual([])
    expect(sessionStorage.getItem(key)).toBeNull()
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
