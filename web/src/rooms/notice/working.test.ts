// What the editors of an audience, a repeat and a finding's fix do to a notice.
import { describe, expect, it } from 'vitest'
import type { FactChoice, Node } from '../../api/client'
import { begin, formOf, retest } from './audience/facts'
import { asRoot, at, countLeaves, insert, move, pointer, put, step } from './audience/tree'
import { patched } from './patch'
import { read, write } from './words/rule'

const leaf = (n: number): Node => ({ fact: 'visits.number', is: 'gte', value: n })
const tree: Node = { all: [leaf(0), { any: [leaf(1), leaf(2)] }, { none: [leaf(3)], off: true }] }
const values = (n: Node): unknown => (n.all ?? n.any ?? n.none)?.map(values) ?? n.value

describe('an audience’s tree', () => {
  it('is changed without changing what it was', () => {
    const before = JSON.stringify(tree)
    expect(values(put(tree, [1, 0], () => undefined))).toEqual([0, [2], [3]])
    expect(values(put(tree, [1], (n) => ({ none: n.any })))).toEqual([0, [1, 2], [3]])
    expect(values(insert(tree, [1], 1, leaf(9)))).toEqual([0, [1, 9, 2], [3]])
    expect(put(tree, [2, 0], () => leaf(7)).all?.[2]).toEqual({ none: [leaf(7)], off: true })
    expect(JSON.stringify(tree)).toBe(before)
  })
  it('takes a part to another place, and never into itself', () => {
    expect(values(move(tree, [0], [1], 2))).toEqual([[1, 2, 0], [3]])
    expect(values(move(tree, [1, 0], [], 0))).toEqual([1, 0, [2], [3]])
    expect(values(move(tree, [0], [], 3))).toEqual([[1, 2], [3], 0])
    expect(values(move(tree, [1, 1], [1], 0))).toEqual([0, [2, 1], [3]])
    expect(move(tree, [1], [1], 0)).toBe(tree)
  })
  it('is walked through by keys', () => {
    expect(step(tree, [1], 'up').place).toEqual([0])
    expect(values(step(tree, [0], 'down').root)).toEqual([[1, 2], 0, [3]])
    expect(step(tree, [0], 'up').root).toBe(tree)
    expect(values(step(tree, [1, 1], 'out').root)).toEqual([0, [1], 2, [3]])
    const inside = step(tree, [2], 'in')
    expect([inside.place, values(inside.root)]).toEqual([
      [1, 2],
      [0, [1, 2, [3]]],
    ])
    expect(step(tree, [1], 'in').root).toBe(tree)
  })
  it('names its places as the core does', () => {
    expect(pointer(tree, [1, 0], false)).toBe('/all/1/any/0')
    expect(pointer(tree, [], false)).toBe('')
    expect(pointer(asRoot(leaf(1)), [0], true)).toBe('')
    expect(at(tree, [1, 1])).toEqual(leaf(2))
    expect(countLeaves(tree)).toBe(3)
    expect(asRoot(undefined)).toEqual({ all: [] })
  })
})

describe('a condition', () => {
  const fact = (name: string, kind: FactChoice['kind'], extra = {}): FactChoice => ({
    name,
    kind,
    label: name,
    means: '',
    example: '',
    limits: '',
    room: '',
    min: 0,
    tests: [],
    ...extra,
  })
  const facts = [
    fact('visits.number', 'number'),
    fact('event.NAME.count', 'number'),
    fact('person.NAME', 'trait'),
    fact('person.signedIn', 'trait'),
    fact('event.NAME.PROPERTY', 'trait'),
    fact('device.kind', 'text', { choices: [{ value: 'phone', label: 'a phone' }] }),
  ]
  it('begins right and keeps its value from test to test', () => {
    const n = begin(facts[0])
    expect(n).toEqual({ fact: 'visits.number', is: 'gte', value: 1 })
    const between = retest(n, 'between', facts[0])
    expect(between.value).toEqual([1, 1])
    expect(retest(between, 'lt', facts[0]).value).toBe(1)
    expect('value' in retest(n, 'set', facts[0])).toBe(false)
    expect(retest(begin(facts[5]), 'in', facts[5]).value).toEqual(['phone'])
  })
  it('knows facts of the site’s own by their form', () => {
    expect(formOf(facts, 'event.booking.count')).toMatchObject({ fact: { name: 'event.NAME.count' }, own: ['booking'] })
    expect(formOf(facts, 'event.booking.route')).toMatchObject({
      fact: { name: 'event.NAME.PROPERTY' },
      own: ['booking', 'route'],
    })
    expect(begin(facts[4], ['booking', 'route']).fact).toBe('event.booking.route')
    expect(formOf(facts, 'person.signedIn')).toMatchObject({ fact: { name: 'person.signedIn' }, own: [] })
    expect(formOf(facts, 'person.tier')).toMatchObject({ fact: { name: 'person.NAME' }, own: ['tier'] })
    expect(formOf(facts, 'moon.phase').fact).toBeUndefined()
  })
})

describe('a rule', () => {
  const from = '2026-11-27T12:00' // the fourth Friday
  it.each([
    ['', 'never'],
    ['FREQ=DAILY', 'daily'],
    ['FREQ=WEEKLY;BYDAY=FR', 'weekly'],
    ['FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,FR;COUNT=8', 'weekly'],
    ['FREQ=MONTHLY', 'monthday'],
    ['FREQ=MONTHLY;BYDAY=4FR;UNTIL=20271231T235959', 'weekday'],
    ['FREQ=YEARLY', 'yearly'],
    ['FREQ=HOURLY;INTERVAL=3', 'hourly'],
    ['FREQ=MONTHLY;BYDAY=-1FR', 'own'],
    ['FREQ=WEEKLY;WKST=SU;BYDAY=TU', 'own'],
    ['FREQ=DAILY;UNTIL=20271231T080000Z', 'own'],
    ['nonsense', 'own'],
  ])('%s is read and written as it was', (rule, often) => {
    const r = read(rule || undefined, from)
    expect(r.often).toBe(often)
    expect(write(r, from)).toBe(rule)
  })
  it('says the last of its weekday where there may be no fifth', () => {
    expect(write({ ...read('FREQ=MONTHLY', '2026-01-30T09:00'), often: 'weekday' }, '2026-01-30T09:00')).toBe(
      'FREQ=MONTHLY;BYDAY=-1FR',
    )
  })
})

describe('a fix', () => {
  it('is carried out on a copy', () => {
    const notice = { rank: 50, pages: { include: [{ match: 'all' }, { match: 'home' }] }, audience: { all: [leaf(1)] } }
    expect(patched(notice, [{ op: 'remove', path: '/pages/include/1' }]).pages.include).toEqual([{ match: 'all' }])
    expect(patched(notice, [{ op: 'add', path: '/audience/all/0/off', value: true }]).audience.all[0].off).toBe(true)
    expect(
      patched(notice, [{ op: 'add', path: '/pages/include/0', value: { match: 'home' } }]).pages.include,
    ).toHaveLength(3)
    expect('audience' in patched(notice, [{ op: 'remove', path: '/audience' }])).toBe(false)
    expect(patched(notice, [{ op: 'add', path: '/rank', value: 51 }]).rank).toBe(51)
    expect(notice.rank).toBe(50)
  })
  it('that no longer fits what is there says so, and changes nothing', () => {
    const notice = { pages: { include: [{ match: 'all' }] } }
    for (const path of ['/pages/include/4', '/audience/all/0/off', '/pages/exclude/0'])
      expect(() => patched(notice, [{ op: 'remove', path }])).toThrow('has changed since')
    expect(notice).toEqual({ pages: { include: [{ match: 'all' }] } })
  })
})
