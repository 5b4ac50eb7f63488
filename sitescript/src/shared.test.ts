// What a browser remembers in a cookie of the whole domain.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { boxes, fitting } from './shared'

/** What a cookie of that value says: quotes are apostrophes in it. */
const said = (value: string) => JSON.parse(decodeURIComponent(value.replace(/'/g, '%22'))) as Record<string, unknown>
const acts = (more: object) => ({ notices: {}, ...more }) as Parameters<typeof fitting>[0]
const at = (n: number) => new Date(1e12 + n * 1000).toISOString()

describe('the value of the cookie', () => {
  it('says what is kept, without what other hosts need not know, in characters that a cookie may have', () => {
    const all = acts({
      notices: { gale: { closed: at(1), shown: [at(0)] }, 'it’s': { clicked: at(2) } },
      events: { "book'ing": [at(3)] },
      visits: { seen: [at(0)] },
      untold: [1],
      unsent: [2],
      told: { asked: 'x' },
      consent: { id: 'a,b;c"d' },
    })
    const before = JSON.stringify(all)
    const value = fitting(all)
    expect(value).toMatch(/^[!#-+\--:<-[\]-~]*$/) // RFC 6265 §4.1.1
    expect(said(value)).toEqual({ ...all, untold: undefined, unsent: undefined, told: undefined })
    expect(JSON.stringify(all), 'what is kept stays as it is').toBe(before)
    expect(value.length, 'short').toBeLessThan(encodeURIComponent(JSON.stringify(all)).length * 0.7)
  })

  it('has the newest of what is too long: of each list, then notice by notice', () => {
    const long = acts({
      notices: { a: { shown: Array.from({ length: 60 }, (_, n) => at(n)) } },
      events: { booking: Array.from({ length: 60 }, (_, n) => at(n)) },
      visits: { seen: Array.from({ length: 60 }, (_, n) => at(n)) },
    })
    const kept = said(fitting(long)) as unknown as typeof long
    expect(fitting(long).length).toBeLessThanOrEqual(3800)
    const lists = [kept.notices.a!.shown!, kept.events!.booking!, kept.visits!.seen]
    for (const list of lists) {
      expect(list.length).toBe(25)
      expect(list.at(-1)).toBe(at(59))
    }

    const many = acts({
      notices: Object.fromEntries(
        Array.from({ length: 200 }, (_, n) => [
          `notice-${n}`,
          { [['closed', 'clicked', 'met'][n % 3]!]: at(n), shown: n % 2 ? [at(1000 + n)] : [] },
        ]),
      ),
    })
    const left = Object.keys((said(fitting(many)) as unknown as typeof many).notices)
    expect(fitting(many).length).toBeLessThanOrEqual(3800)
    expect(left.length).toBeGreaterThan(40)
    // Those of which nothing happened for longest went.
    const last = (id: string) => +id.slice(7) + (+id.slice(7) % 2 ? 1000 : 0)
    const newest = Array.from({ length: 200 }, (_, n) => `notice-${n}`).sort((a, b) => last(a) - last(b))
    expect(left.sort()).toEqual(newest.slice(-left.length).sort())
    expect(fitting(acts({ consent: 'x'.repeat(4000) })), 'what can never fit').toBe('')
  })
})

describe('where it is kept', () => {
  /** The cookies of a browser, and how each was set last. */
  let jar: Record<string, string>
  let written: Record<string, string>
  let takes = true
  beforeEach(() => {
    jar = {}
    written = {}
    takes = true
    localStorage.clear()
    sessionStorage.clear()
    vi.spyOn(document, 'cookie', 'get').mockImplementation(() =>
      Object.entries(jar)
        .map((c) => c.join('='))
        .join('; '),
    )
    vi.spyOn(document, 'cookie', 'set').mockImplementation((text) => {
      const [, name, value, how] = /^([^=]*)=([^;]*)(.*)$/.exec(text)!
      written[name!] = how!
      if (takes) jar[name!] = value!
    })
  })
  afterEach(() => vi.unstubAllGlobals())
  const open = () => boxes('elsewhere.example localhost')!
  const kept = acts({ notices: { gale: { closed: at(1) } }, told: { asked: 'x' } })

  it('is the domain among those listed that the page lies in', () => {
    expect(boxes('elsewhere.example')).toBeUndefined()
    expect(boxes('ocalhost')).toBeUndefined()
    open()[0].setItem('mastflag.s', JSON.stringify(kept))
    expect(written['mastflag.s']).toBe(';domain=localhost;path=/;samesite=lax;max-age=34560000')
    vi.stubGlobal('location', { hostname: 'shop.isles.example', protocol: 'https:' })
    boxes('isles.example')![1].setItem('mastflag.s', at(0))
    expect(written['mastflag.s.session']).toBe(';domain=isles.example;path=/;samesite=lax;secure')
  })

  it('is what all hosts know, and what this one has still to tell', () => {
    const [box] = open()
    expect(box.getItem('mastflag.s')).toBe('null')
    box.setItem('mastflag.s', JSON.stringify(kept))
    expect(said(jar['mastflag.s']!)).toEqual({ notices: kept.notices })
    expect(JSON.parse(box.getItem('mastflag.s')!)).toEqual(kept)
    jar['mastflag.s'] = fitting(acts({ notices: { other: { met: at(2) } } }))
    jar['mastflag.s2'] = 'x'
    expect(JSON.parse(box.getItem('mastflag.s')!)).toEqual({ notices: { other: { met: at(2) } }, told: { asked: 'x' } })
    localStorage.clear()
    expect(JSON.parse(box.getItem('mastflag.s')!)).toEqual({ notices: { other: { met: at(2) } } })
  })

  it.each(['%', 'no JSON', '{', ''])('is what this host knows where the cookie is %j', (value) => {
    const [box] = open()
    localStorage.setItem('mastflag.s', JSON.stringify(kept))
    jar['mastflag.s'] = value
    expect(JSON.parse(box.getItem('mastflag.s')!)).toEqual(kept)
  })

  it('is the window’s own storage where cookies are refused, and nowhere where that is barred too', () => {
    takes = false
    const [box, session] = open()
    box.setItem('mastflag.s', JSON.stringify(kept))
    expect(JSON.parse(localStorage.getItem('mastflag.s')!)).toEqual(kept)
    session.setItem('mastflag.s', at(5))
    expect(sessionStorage.getItem('mastflag.s')).toBe(at(5))
    expect(session.getItem('mastflag.s')).toBe(at(5))
    vi.spyOn(window, 'localStorage', 'get').mockImplementation(() => {
      throw new Error('barred')
    })
    vi.spyOn(window, 'sessionStorage', 'get').mockImplementation(() => {
      throw new Error('barred')
    })
    expect(box.getItem('mastflag.s')).toBe('null')
    expect(() => {
      box.setItem('mastflag.s', JSON.stringify(kept))
    }).toThrow('not kept')
    expect(session.getItem('mastflag.s')).toBeNull()
    takes = true
    expect(() => {
      box.setItem('mastflag.s', JSON.stringify(kept))
    }).not.toThrow()
  })

  it('is for the session when this visit began, where that is an instant', () => {
    const [, session] = open()
    expect(session.getItem('mastflag.s')).toBeNull()
    session.setItem('mastflag.s', at(7))
    expect(sessionStorage.length, 'the cookie is enough').toBe(0)
    expect(session.getItem('mastflag.s')).toBe(at(7))
    jar['mastflag.s.session'] = 'soon'
    sessionStorage.setItem('mastflag.s', at(8))
    expect(session.getItem('mastflag.s')).toBe(at(8))
  })
})
