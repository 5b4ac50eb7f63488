// Words and pictures for one visitor.
import { beforeEach, describe, expect, it } from 'vitest'
import { fill } from './personal'

describe('what a notice says to one visitor', () => {
  let root: ShadowRoot
  const told: Record<string, unknown> = {}
  const valueOf = (name: string) => told[name]
  const words = () => [...root.querySelectorAll('[data-personal]')].map((e) => e.textContent)
  beforeEach(() => {
    for (const name in told) delete told[name]
    root = document.createElement('div').attachShadow({ mode: 'open' })
  })

  it('is what the site told, as text, and else the words for all others', () => {
    root.innerHTML =
      '<p>Hello <b data-personal="person.name">friend</b>, <i data-personal="event.booking.route">all</i></p>'
    fill(root, valueOf)
    expect(words()).toEqual(['friend', 'all'])
    told['person.name'] = '<img src=x>'
    told['event.booking.route'] = 7
    fill(root, valueOf)
    expect(words()).toEqual(['<img src=x>', '7'])
    expect(root.querySelector('img')).toBeNull()
    told['person.name'] = ''
    told['event.booking.route'] = null
    fill(root, valueOf)
    expect(words(), 'nothing is told any more').toEqual(['friend', 'all'])
    told['event.booking.route'] = 0
    fill(root, valueOf)
    expect(words()).toEqual(['friend', '0'])
    expect(() => {
      fill(undefined, valueOf)
      fill(null, valueOf)
    }).not.toThrow()
  })

  it('does not touch what says so already', () => {
    root.innerHTML = '<b data-personal="person.name">friend</b>'
    const text = root.querySelector('b')!.firstChild
    fill(root, valueOf)
    expect(root.querySelector('b')!.firstChild).toBe(text)
  })

  const rows = [
    {
      value: 'Aldwick',
      address: '/a.webp',
      width: 640,
      height: 360,
      phone: { address: '/a-s.webp', width: 390, height: 200 },
    },
    { value: 'Fähre', address: '/f.webp' },
    { value: 'none' },
    { address: '/all.webp', width: 100, height: 50 },
  ]
  const shown = () => {
    const picture = root.querySelector('picture')!
    const [img, source] = [picture.querySelector('img')!, picture.querySelector('source')]
    return [
      picture.hidden ? 'hidden' : img.getAttribute('src'),
      img.getAttribute('width'),
      img.getAttribute('height'),
      source && [source.getAttribute('media'), source.getAttribute('srcset')].join(' '),
    ]
  }

  it.each([
    [undefined, ['/all.webp', '100', '50', null]],
    ['', ['/all.webp', '100', '50', null]],
    ['Elsewhere', ['/all.webp', '100', '50', null]],
    ['aldWICK', ['/a.webp', '640', '360', '(max-width:639px) /a-s.webp']],
    ['Fa\u0308hre', ['/f.webp', null, null, null]],
    ['none', ['hidden', '100', '50', null]],
  ])('has the picture for %s', (value, want) => {
    root.innerHTML = '<picture><img src="/all.webp" width="100" height="50" alt=""></picture>'
    const picture = root.querySelector('picture')!
    picture.dataset.table = JSON.stringify({ by: 'person.port', rows })
    told['person.port'] = value
    fill(root, valueOf)
    fill(root, valueOf)
    expect(shown()).toEqual(want)
    expect(picture.querySelectorAll('source').length).toBeLessThan(2)
    told['person.port'] = 'Aldwick'
    fill(root, valueOf)
    expect(shown()).toEqual(['/a.webp', '640', '360', '(max-width:639px) /a-s.webp'])
    delete told['person.port']
    fill(root, valueOf)
    expect(shown(), 'back to that for all others').toEqual(['/all.webp', '100', '50', null])
  })
})
