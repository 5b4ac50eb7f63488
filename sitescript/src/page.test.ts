import { beforeEach, describe, expect, it, vi } from 'vitest'
import { answer, card, freshPage, instant, Program, settle, styleOf } from './testing/program'
import type { Answer, Bar } from './shapes'

const parts = vi.hoisted(() => ({ bring: vi.fn() }))
vi.mock('./bring', () => parts)

/** What parts of the script do on a page, as far as a test asks. */
let popup: { places: object; css: string; placed: () => void }
let loaded: Record<string, object>
const on = () => [...document.querySelectorAll<HTMLElement>('mastflag-notice')].map((e) => e.dataset.id)
const press = (id: string, selector: string) =>
  document
    .querySelector(`mastflag-notice[data-id=${id}]`)!
    .shadowRoot!.querySelector<HTMLElement>(selector)!
    .dispatchEvent(new MouseEvent('click', { bubbles: true, composed: true }))

async function begin(settings: Record<string, string> = {}): Promise<void> {
  const names = ['popup', 'edges', 'inpage', 'ways', 'consent', 'disclaimer', 'results', 'ribbon', 'stage', 'shared']
  const known = Object.fromEntries([...names, 'visits', 'remainder'].map((n) => [n, `/a/${n}.js`]))
  ;(await import('./site')).start(
    'https://program.test',
    { mastflag: 'sundrey', wants: 'v1:', ...known, ...settings },
    '',
  )
  await settle()
}

beforeEach(async () => {
  await freshPage()
  vi.stubGlobal('trustedTypes', undefined)
  popup = { places: { 'corner-end': { name: 'mastflag-corner-end', css: '' } }, css: '', placed: vi.fn() }
  loaded = { popup: { start: () => popup } }
  parts.bring.mockReset().mockImplementation((at: string) => {
    const part = loaded[/(\w+)\.js$/.exec(at)![1]!]
    return part ? Promise.resolve(part) : Promise.reject(404)
  })
})

describe('a page', () => {
  it('asks what shows, and puts it there', async () => {
    const program = new Program(answer([card('gale'), card('sale')]))
    await begin()
    expect(program.asked).toHaveLength(1)
    expect(program.last).toMatchObject({ url: `${location.origin}/fares`, wants: 'v1', again: false, preview: '' })
    expect(program.last.memory.view, 'none has begun').toBeUndefined()
    expect(on()).toEqual(['gale', 'sale'])
    expect(popup.placed).toHaveBeenCalled()
    expect(parts.bring.mock.calls.flat(), 'of all parts the one that it takes').toEqual([
      'https://program.test/a/popup.js',
    ])
  })

  it('asks again when the answer runs out, in the same view and session', async () => {
    const program = new Program(answer([card('gale')], { until: instant + 60_000 }), answer([]))
    await begin()
    await settle(60_019)
    expect(program.asked).toHaveLength(1)
    await settle(1)
    expect(program.asked).toHaveLength(2)
    const { view, session } = program.last.memory
    expect([view, session]).toEqual(['2026-12-04T12:00:00.000Z', '2026-12-04T12:00:00.000Z'])
    expect(on()).toEqual([])
    await settle(3_600_000)
    expect(program.asked, 'this one lasts').toHaveLength(2)
  })

  it('waits for the body', async () => {
    const program = new Program(answer([card('gale')]))
    const { body } = document
    body.remove()
    await begin()
    expect(program.asked).toHaveLength(0)
    document.documentElement.append(body)
    dispatchEvent(new Event('DOMContentLoaded'))
    await settle()
    expect(on()).toEqual(['gale'])
  })

  it('shows the rest where a part cannot be loaded, and is as without where the program is away', async () => {
    new Program(answer([card('gale'), card('bar', { slot: 'top' })]))
    loaded.edges = { start: () => ({ fit: () => true }) }
    delete loaded.popup
    await begin()
    expect(on()).toEqual(['bar'])

    await freshPage()
    const program = new Program('away', answer([card('gale')]))
    loaded.popup = { start: () => popup }
    const { setStyle } = await import('./reserve')
    setStyle('edges', 'html{padding-top:40px}')
    setStyle('blocks', 'h1{margin-bottom:90px}')
    vi.spyOn(Math, 'random').mockReturnValue(0)
    await begin()
    expect([styleOf('edges'), styleOf('blocks')], 'room that was kept is given back').toEqual(['', ''])
    await settle(60_020)
    expect(program.asked).toHaveLength(2)
    expect(on()).toEqual(['gale'])
  })

  it('gives room back after two seconds without an answer, and not where there was one', async () => {
    const { patience } = await import('./reserve')
    expect(patience).toBe(2000)
    let late!: (a: Answer) => void
    new Program(new Promise((r) => (late = r)))
    const { setStyle } = await import('./reserve')
    setStyle('edges', 'html{padding-top:40px}')
    await begin()
    await settle(1999)
    expect(styleOf('edges')).not.toBe('')
    await settle(1)
    expect(styleOf('edges')).toBe('')
    late(answer([]))
    await settle()

    await freshPage()
    new Program(answer([card('bar', { slot: 'top' })]))
    loaded.edges = {
      start: (page: { remember(css: string): void }) => ({ fit: () => (page.remember('html{}'), true) }),
    }
    ;(await import('./reserve')).setStyle('edges', 'html{padding-top:40px}')
    await begin()
    await settle(2000)
    expect(styleOf('edges')).toBe('html{padding-top:40px}')
    expect(localStorage.getItem('mastflag.sundrey.room')).toContain('html{}')
  })

  it('takes off what is closed, remembers that, and asks who has the place now', async () => {
    const program = new Program(answer([card('gale'), card('sale')]), answer([card('sale'), card('third')]))
    await begin()
    press('gale', 'button')
    expect(on(), 'at once').toEqual(['sale'])
    await settle()
    expect(on()).toEqual(['sale', 'third'])
    expect(program.last.memory.notices.gale).toMatchObject({
      closed: '2026-12-04T12:00:00.000Z',
      counts: { closed: 1 },
    })
  })

  it('remembers presses and showings that are asked about, once a view', async () => {
    const kept = (id: string) =>
      card(id, { keep: ['shown', 'clicked'], html: `<p class="bar"><a href="#x">go</a></p>` })
    const program = new Program(answer([kept('gale'), card('sale', { html: '<p><a href="#x">go</a></p>' })]))
    await begin()
    press('gale', 'a')
    press('sale', 'a')
    history.replaceState(null, '', '/fares?day=2')
    await settle(500)
    expect(program.last.memory.notices).toEqual({
      gale: {
        clicked: '2026-12-04T12:00:00.000Z',
        shown: ['2026-12-04T12:00:00.000Z'],
        counts: { clicked: 1, shown: 1 },
      },
    })
    history.replaceState(null, '', '/ports')
    await settle(500)
    history.replaceState(null, '', '/ports?asked')
    await settle(500)
    expect(program.last.memory.notices.gale!.shown, 'another path is another view').toHaveLength(2)
    expect(program.asked.map((a) => new URL(a.url).pathname)).toEqual(['/fares', '/fares', '/ports', '/ports'])
    expect(program.asked.map((a) => !!a.memory.view)).toEqual([false, true, false, true])
  })

  it('looks twice a second for another address, where the browser does not tell', async () => {
    const program = new Program(answer([]))
    await begin()
    await settle(5000)
    expect(program.asked).toHaveLength(1)
    history.pushState(null, '', '/ports')
    await settle(500)
    expect(program.asked).toHaveLength(2)
    history.pushState(null, '', '/ports#fares')
    await settle(5000)
    expect(program.asked).toHaveLength(2)
  })

  it('asks at once where the browser tells of another address', async () => {
    const navigation = new EventTarget()
    vi.stubGlobal('navigation', navigation)
    const program = new Program(answer([]))
    await begin()
    history.pushState(null, '', '/ports')
    await settle(5000)
    expect(program.asked, 'it is not looked for').toHaveLength(1)
    navigation.dispatchEvent(new Event('navigatesuccess'))
    navigation.dispatchEvent(new Event('navigatesuccess'))
    await settle()
    expect(program.asked).toHaveLength(2)
  })

  it('asks again once it is looked at after more than a second, and at once when it comes back whole', async () => {
    const program = new Program(answer([]))
    await begin()
    const show = async (hidden: boolean, ms: number) => {
      vi.spyOn(document, 'hidden', 'get').mockReturnValue(hidden)
      await settle(ms)
      dispatchEvent(new Event('visibilitychange'))
      await settle()
      return program.asked.length
    }
    expect(await show(true, 5000)).toBe(1)
    expect(await show(false, 0)).toBe(2)
    expect(await show(false, 1000)).toBe(2)
    expect(await show(false, 1)).toBe(3)
    const come = (persisted: boolean) => {
      dispatchEvent(new Event('pagehide'))
      dispatchEvent(Object.assign(new Event('pageshow'), { persisted }))
    }
    come(true)
    await settle()
    expect(program.asked).toHaveLength(4)
    dispatchEvent(Object.assign(new Event('pageshow'), { persisted: false }))
    await settle(2000)
    expect(program.asked).toHaveLength(4)
  })

  it('sends the facts that it is told to, asks at once where it sent none, and tells what it has', async () => {
    const program = new Program(answer([], { wants: 'v2:page.title,event.booking' }), answer([]))
    await begin()
    expect(program.asked.map((a) => a.wants)).toEqual(['v1', 'v2'])
    expect(program.asked.map((a) => a.facts['page.title'])).toEqual([undefined, 'Fares'])
    const { mastflag } = window as unknown as { mastflag: { event(n: string): void; person(p: object): void } }
    mastflag.event('left')
    await settle()
    expect(program.asked, 'nobody asks about it').toHaveLength(2)
    mastflag.event('booking')
    await settle()
    expect(program.asked).toHaveLength(3)
    expect(program.last.memory).toMatchObject({ events: { booking: ['2026-12-04T12:00:00.000Z'] } })
    mastflag.person({ plan: 'gold' })
    await settle()
    expect(program.asked, 'of the person nothing is sent').toHaveLength(3)
  })

  it('makes the draw that an answer asks for, and asks again with it', async () => {
    const drew = vi.fn(() => true)
    const taker = { hold: vi.fn(), act: vi.fn(), placed: vi.fn() }
    loaded.results = { draw: drew, start: () => taker }
    const results = { draw: true, mark: 'm', page: '', shown: [] }
    const program = new Program(
      answer([card('gale')], { results }),
      answer([card('gale')], { results: { ...results, draw: false } }),
    )
    await begin()
    expect(program.asked).toHaveLength(2)
    expect(drew).toHaveBeenCalledTimes(1)
    expect(taker.hold).toHaveBeenLastCalledWith({ ...results, draw: false }, [expect.objectContaining({ id: 'gale' })])
    expect(taker.placed).toHaveBeenCalled()
    press('gale', 'button')
    expect(taker.act).toHaveBeenCalledWith(expect.objectContaining({ id: 'gale' }), 'close')

    await freshPage()
    drew.mockReturnValue(false)
    const other = new Program(answer([card('gale')], { results }))
    await begin()
    expect(other.asked, 'it could not be kept: nothing is asked for ever').toHaveLength(1)
  })

  it('lets in what has waited when it comes true', async () => {
    let come!: () => void
    let isMet = false
    const add = vi.fn()
    loaded.remainder = {
      watching: (_: unknown, __: unknown, changed: () => void) => {
        come = changed
        return { add, restart: vi.fn(), holds: () => isMet }
      },
    }
    const remainder = { fact: 'view.scroll', is: 'gte', value: 30 } as never
    const held = { fact: 'view.seconds', is: 'gte', value: 3 } as never
    new Program(
      answer([], {
        waiting: [{ ...card('later'), remainder }],
        results: { mark: '', page: '', shown: [], held: { 0: held } },
      }),
    )
    await begin()
    expect(on()).toEqual([])
    expect(add.mock.calls).toEqual([[remainder], [held]])
    isMet = true
    come()
    expect(on()).toEqual(['later'])
  })

  it('keeps what a question waits for, and takes the wish to see it again back once it is closed', async () => {
    let page!: { ask(again: boolean): Promise<void>; drop(b: Bar): void }
    const question = card('ask', { hash: 'x' })
    loaded.consent = { start: (p: typeof page) => ((page = p), { hold: vi.fn(), act: vi.fn() }) }
    const program = new Program(answer([question], { consent: { rule: 'opt-in', part: { tag: 'c' } } as never }))
    await begin()
    expect(on()).toEqual(['ask'])
    await page.ask(true)
    await page.ask(false)
    expect(program.asked.map((a) => a.again)).toEqual([false, true, true])
    page.drop(question)
    await page.ask(false)
    expect(program.last.again).toBe(false)
  })

  it('does nothing where no policy takes its HTML', async () => {
    const program = new Program(answer([card('gale')]))
    vi.stubGlobal('trustedTypes', {
      createPolicy: () => {
        throw new TypeError('not allowed')
      },
    })
    vi.spyOn(Element.prototype, 'innerHTML', 'set').mockImplementation(() => {
      throw new TypeError('not allowed')
    })
    ;(await import('./reserve')).setStyle('edges', 'html{padding-top:40px}')
    await begin()
    vi.restoreAllMocks()
    expect(program.asked).toHaveLength(0)
    expect(styleOf('edges')).toBe('')
  })
})

describe('a preview', () => {
  const ribbon = { take: vi.fn(() => 'token'), say: vi.fn(), stop: vi.fn() }
  beforeEach(() => {
    for (const f of Object.values(ribbon)) f.mockClear()
    loaded.ribbon = ribbon
  })

  it('comes by the address or by the session, says so, and keeps nothing', async () => {
    await freshPage('/fares#mastflag-preview=token')
    const program = new Program(answer([card('gale', { keep: ['shown', 'clicked'] })]))
    await begin()
    expect(ribbon.take).toHaveBeenCalledWith('mastflag.sundrey.preview')
    expect(program.last.preview).toBe('token')
    expect(ribbon.say).toHaveBeenCalledTimes(1)
    press('gale', 'button')
    await settle()
    expect(on()).toEqual([])
    expect(program.asked, 'closing it asks for nothing').toHaveLength(1)
    expect(localStorage.getItem('mastflag.sundrey')).toBeNull()

    await freshPage('/fares?x=1&y=#other')
    sessionStorage.setItem('mastflag.sundrey.preview', 'kept')
    const second = new Program(answer([]))
    await begin()
    expect(second.last.preview).toBe('kept')
    expect(ribbon.take).toHaveBeenCalledTimes(1)
  })

  it('takes its token out of the frame’s name, or of the address, and leaves the rest', async () => {
    const { take } = await vi.importActual<typeof import('./ribbon')>('./ribbon')
    for (const [frame, hash, token, rest] of [
      ['', '#mastflag-preview=a%2Bb', 'a+b', ''],
      ['', '#top&mastflag-preview=t&more', 't', '#top&more'],
      ['', '#/ports?mastflag-preview=t', 't', '#/ports'],
      ['', '#/ports?day=1&mastflag-preview=t', 't', '#/ports?day=1'],
      ['mastflag-preview=a%2Bb', '#/ports', 'a+b', '#/ports'],
      ['mastflag-preview=t', '#mastflag-preview=other', 't', '#mastflag-preview=other'],
      ['mine', '#/ports', '', '#/ports'],
    ]) {
      sessionStorage.clear()
      window.name = frame!
      history.replaceState(null, '', `/fares?x=1${hash}`)
      expect(take('kept'), hash).toBe(token)
      expect(location.pathname + location.search + location.hash).toBe(`/fares?x=1${rest}`)
      expect(window.name).toBe(frame === 'mine' ? 'mine' : '')
      expect(sessionStorage.getItem('kept') ?? '').toBe(token)
    }
    window.name = 'mastflag-preview=named'
    await freshPage('/fares#/app')
    const program = new Program(answer([]))
    await begin()
    expect(program.last.preview, 'asked of the part').toBe('token')
    window.name = ''
  })

  it('ends when it is left, or has run out', async () => {
    await freshPage('/fares#x&mastflag-preview=token')
    const program = new Program(answer([]), 410, answer([card('gale')]))
    await begin()
    ;(ribbon.say.mock.calls[0] as unknown as [unknown, () => void])[1]()
    await settle()
    expect(ribbon.stop).toHaveBeenLastCalledWith('mastflag.sundrey.preview', expect.any(Function), false)
    expect(program.last.preview).toBe('')
    await settle(3_600_000)
    expect(program.asked, 'what is refused outside a preview is not asked again').toHaveLength(2)

    await freshPage('/fares#mastflag-preview=token')
    const other = new Program(410, answer([card('gale')]))
    await begin()
    expect(ribbon.stop).toHaveBeenLastCalledWith('mastflag.sundrey.preview', expect.any(Function), true)
    expect(other.asked.map((a) => a.preview)).toEqual(['token', ''])
    expect(on()).toEqual(['gale'])
  })

  it('is not needed for the site to be seen', async () => {
    await freshPage('/fares#mastflag-preview=token')
    delete loaded.ribbon
    const program = new Program(answer([card('gale')]))
    await begin()
    expect(program.last.preview).toBe('')
    expect(on()).toEqual(['gale'])
  })

  it('on the stage tells what stands, and lets the stage work the page', async () => {
    const start = vi.fn()
    loaded.stage = { start }
    const posted = vi.fn()
    vi.stubGlobal('parent', { postMessage: posted })
    sessionStorage.setItem('mastflag.sundrey.preview', 'kept')
    new Program(answer([card('gale')]))
    await begin({ picture: '/a/picture.js' })
    expect(posted).toHaveBeenLastCalledWith({ mastflag: 'placed', ids: ['gale'], atBottom: [] }, 'https://program.test')
    expect(start).toHaveBeenCalledWith('https://program.test', '/a/picture.js', true, expect.any(Function))
    expect(ribbon.say).not.toHaveBeenCalled()
    vi.stubGlobal('parent', window)
  })

  it('on the stage tells what of the top of the page stands at the bottom, as nothing there can be moved', async () => {
    loaded.stage = { start: vi.fn() }
    loaded.edges = { start: () => ({ fit: () => false }) }
    const posted = vi.fn()
    vi.stubGlobal('parent', { postMessage: posted })
    sessionStorage.setItem('mastflag.sundrey.preview', 'kept')
    new Program(answer([card('top', { slot: 'top' }), card('low', { slot: 'bottom' }), card('gale')]))
    await begin({ picture: '/a/picture.js' })
    expect(posted.mock.lastCall![0]).toEqual({
      mastflag: 'placed',
      ids: ['top', 'low', 'gale'],
      atBottom: ['top'],
    })
    vi.stubGlobal('parent', window)
  })

  it('reads first what the hosts of a domain share', async () => {
    const box = { getItem: () => JSON.stringify({ notices: { gale: { closed: 'then' } } }), setItem: vi.fn() }
    loaded.shared = { boxes: vi.fn(() => [box, box]) }
    const program = new Program(answer([]))
    await begin({ domains: 'ferries.test' })
    expect(program.last.memory.notices).toEqual({ gale: { closed: 'then' } })
  })
})
