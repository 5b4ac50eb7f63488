// Room at edges and in the page: what is kept free, for how long, and how elements are named in styles.
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { freshPage, instant, settle, styleOf } from './testing/program'

const day = 86_400_000

describe('the room of a page (rule G6)', () => {
  let room: typeof import('./reserve')
  const key = 'mastflag.sundrey.room'
  const kept = () => JSON.parse(localStorage.getItem(key) ?? '{}') as Record<string, object>
  beforeEach(async () => {
    await freshPage('/fares?day=1')
    room = await import('./reserve')
  })

  it('is kept by the whole address and the width of the window, until what took it changes', () => {
    room.remember('sundrey', 'edges', 'html{padding-top:40px}', instant + 60_000)
    room.remember('sundrey', 'blocks', 'h1{margin-bottom:9px}', instant + 60_000)
    expect(kept()).toEqual({
      '/fares?day=1': {
        width: innerWidth,
        until: instant + 60_000,
        edges: 'html{padding-top:40px}',
        blocks: 'h1{margin-bottom:9px}',
      },
    })
    const reserved = () => {
      room.giveBack()
      room.reserve('sundrey')
      return [styleOf('edges'), styleOf('blocks')]
    }
    expect(reserved()).toEqual(['html{padding-top:40px}', 'h1{margin-bottom:9px}'])
    vi.setSystemTime(instant + 59_999)
    expect(reserved()[0]).not.toBe('')
    vi.setSystemTime(instant + 60_000)
    expect(reserved()).toEqual(['', ''])
    vi.setSystemTime(instant)
    vi.stubGlobal('innerWidth', innerWidth + 1)
    expect(reserved()).toEqual(['', ''])
    vi.unstubAllGlobals()
  })

  it.each([
    [0, day],
    [instant + day - 1, day - 1],
    [instant + day + 1, day],
  ])('lasts a day at most: until %s', (until, lasts) => {
    room.remember('sundrey', 'edges', 'html{}', until)
    expect(kept()['/fares?day=1']).toMatchObject({ until: instant + lasts })
  })

  it('is forgotten where nothing is left of it, and of the oldest of more than fifty pages', () => {
    room.remember('sundrey', 'edges', 'html{}', 0)
    room.remember('sundrey', 'edges', '', 0)
    expect(kept()).toEqual({})
    for (let i = 0; i < 51; i++) {
      history.replaceState(null, '', `/p${i}`)
      room.remember('sundrey', 'edges', 'html{}', 0)
    }
    expect(Object.keys(kept())).toHaveLength(50)
    expect(Object.keys(kept())[0]).toBe('/p1')
    history.replaceState(null, '', '/p1')
    room.remember('sundrey', 'blocks', 'h1{}', 0)
    expect(Object.keys(kept()).at(-1), 'used last').toBe('/p1')
  })

  it('is nothing where storage is barred or holds something else', () => {
    localStorage.setItem(key, 'not JSON')
    room.reserve('sundrey')
    expect(styleOf('edges')).toBe('')
    room.remember('sundrey', 'edges', 'html{}', 0)
    expect(kept()).toHaveProperty('/fares?day=1')
    vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new Error('full')
    })
    room.remember('sundrey', 'edges', 'body{}', 0)
  })

  it('is a style sheet beside those of the page, which is put back where the page drops it', () => {
    room.setStyle('edges', '')
    expect(document.adoptedStyleSheets, 'none where none is needed').toHaveLength(0)
    const own = new CSSStyleSheet()
    document.adoptedStyleSheets = [own]
    room.setStyle('edges', 'html{}')
    room.setStyle('edges', 'body{}')
    expect(document.adoptedStyleSheets).toHaveLength(2)
    expect(styleOf('edges')).toBe('body{}')
    document.adoptedStyleSheets = [own]
    room.setStyle('edges', 'i{}')
    expect(document.adoptedStyleSheets).toHaveLength(2)
  })
})

describe('the line in the page', () => {
  const page = window as unknown as {
    mastflag?: { q?: unknown[]; giveUp?(): void; person(t: object): void; event(n: string, p?: object): void }
  }
  it('keeps the room free, and what the site tells, until the script is there', async () => {
    await freshPage()
    const room = await import('./reserve')
    room.remember('__KEY__', 'edges', 'html{padding-top:40px}', 0)
    await import('./inline')
    expect(styleOf('edges')).toBe('html{padding-top:40px}')
    page.mastflag!.person({ plan: 'gold' })
    page.mastflag!.event('booking', { value: 1 })
    expect(page.mastflag!.q).toEqual([
      ['person', { plan: 'gold' }],
      ['event', 'booking', { value: 1 }],
    ])
    await settle(1999)
    expect(styleOf('edges')).not.toBe('')
    await settle(1)
    expect(styleOf('edges'), 'the script did not come').toBe('')
  })
  it('gives nothing back that the script has taken over, and leaves a page alone that has it twice', async () => {
    await freshPage()
    const room = await import('./reserve')
    room.remember('__KEY__', 'edges', 'html{padding-top:40px}', 0)
    await import('./inline')
    const { giveUp } = page.mastflag!
    page.mastflag = undefined
    giveUp!()
    await settle(2000)
    expect(styleOf('edges')).not.toBe('')
    const taken = { q: [] } as never
    page.mastflag = taken
    vi.resetModules()
    await import('./inline')
    expect(page.mastflag).toBe(taken)
  })
})

describe('a path', () => {
  it('finds its element and nothing else', async () => {
    await freshPage()
    const { pathOf } = await import('./path')
    document.body.innerHTML = `<main><p>1</p><p id="a:b">2<b>x</b><i>y</i><b>z</b></p></main>
      <div id="twice"></div><div id="twice"><u>!</u></div><svg><g></g></svg>`
    for (const e of document.querySelectorAll('*')) {
      const path = pathOf(e)
      expect([...document.querySelectorAll(path)], path).toEqual([e])
    }
    expect(pathOf(document.querySelector('b:last-child')!)).toBe('#a\\:b>b:nth-of-type(2)')
    expect(pathOf(document.documentElement)).toBe('html')
  })
})

describe('where a notice stands', () => {
  it('is at the first of its spots that is there, outside of notices', async () => {
    await freshPage()
    const { find, firstSpot } = await import('./spot')
    document.body.innerHTML =
      '<div data-mastflag="x"><h2>in a block</h2></div><mastflag-notice><h2>in ours</h2></mastflag-notice><h2>site</h2>'
    expect(find('h2')!.textContent).toBe('site')
    expect([find('h3'), find(')')]).toEqual([undefined, undefined])
    const spots = [
      { selector: 'h3', where: 'after' },
      { selector: ')', where: 'after' },
      { selector: 'h2', where: 'before' },
      { selector: 'body', where: 'last' },
    ] as never[]
    expect(firstSpot({ spots })).toBe(spots[2])
    expect(firstSpot({ spots, at: [3, 2] }), 'of those for this page').toBe(spots[3])
    expect([firstSpot({ spots, at: [0, 1] }), firstSpot({ spots, at: [] }), firstSpot({})]).toEqual([
      undefined,
      undefined,
      undefined,
    ])
  })
})

describe('the room of blocks', () => {
  it('is what lies between an element and what follows, or precedes, all that stands there', async () => {
    await freshPage()
    const { styleOf: roomOf } = await import('./rooms')
    document.body.innerHTML = '<main style="row-gap:4px"><p id="p"></p></main><main id="q"></main>'
    const [p, q] = [document.querySelector('#p')!, document.querySelector('#q')!]
    const box = (e: Element, top: number, bottom: number) => {
      e.getBoundingClientRect = () => ({ top, bottom }) as DOMRect
      e.getClientRects = () => [{}] as never
    }
    const host = (top: number, bottom: number, margin = '') => {
      const e = document.createElement('mastflag-notice')
      e.style.margin = margin
      box(e, top, bottom)
      return e
    }
    const next = document.createElement('p')
    const hidden = document.createElement('p')
    hidden.getClientRects = () => [] as never
    const [first, second] = [host(20, 50), host(50, 90)]
    p.after(first, second, hidden, next)
    box(p, 0, 20)
    box(next, 102, 120)
    const after = (h: HTMLElement) => ({ host: h, at: p, where: 'after' })
    expect(roomOf([after(first), after(second)]), 'of both at once, less the gap').toBe('#p{margin-bottom:78px}')
    next.remove()
    expect(roomOf([after(first), after(second)]), 'nothing follows').toBe('#p{margin-bottom:66px}')
    const before = host(200, 220)
    p.before(before)
    box(p, 230, 250)
    expect(roomOf([{ host: before, at: p, where: 'before' }])).toBe('#p{margin-top:26px}')
    const above = document.createElement('p')
    box(above, 180, 190)
    before.before(above)
    expect(roomOf([{ host: before, at: p, where: 'before' }])).toBe('#p{margin-top:36px}')
    const within = host(10, 40, '3px 0px')
    q.append(within)
    for (const [where, part] of [
      ['first', 'before'],
      ['last', 'after'],
    ])
      expect(roomOf([{ host: within, at: q, where: where! }])).toBe(
        `#q::${part}{content:"";display:block;height:30px;margin:3px 0px}`,
      )
    expect(roomOf([])).toBe('')
  })
})
