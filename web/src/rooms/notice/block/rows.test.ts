import { describe, expect, it } from 'vitest'
import type { Row } from '../../../api/client'
import * as block from './rows'

const rows: Row[] = [
  { columns: [{ parts: [{ id: 'a', kind: 'heading' }] }] },
  {
    columns: [
      {
        parts: [
          { id: 'b', kind: 'text' },
          { id: 'c', kind: 'links' },
        ],
      },
      { parts: [{ id: 'd', kind: 'hours' }] },
      {},
    ],
  },
]
const shape = (r: Row[]) =>
  r.map((x) => x.columns.map((c) => (c.parts ?? []).map((p) => p.id).join('')).join(',')).join('|')

describe('what a block is made of', () => {
  it('moves parts step by step, and stops at the ends', () => {
    const steps: [string, block.Way, string | undefined][] = [
      ['b', 'up', 'ab|c,d,'],
      ['b', 'down', 'a|cb,d,'],
      ['c', 'down', undefined],
      ['c', 'on', 'a|b,dc,'],
      ['d', 'on', 'a|bc,,d'],
      ['d', 'back', 'a|dbc,,'],
      ['a', 'up', undefined],
      ['a', 'down', '|abc,d,'],
      ['b', 'back', undefined],
      ['d', 'up', 'ad|bc,,'],
      ['gone', 'up', undefined],
    ]
    for (const [id, way, want] of steps) {
      const to = block.stepped(rows, id, way)
      expect(to && shape(block.moved(rows, id, to)), `${id} ${way}`).toBe(want)
    }
    expect(shape(rows), 'what was there is not altered').toBe('a|bc,d,')
  })

  it('loses no part, whatever columns there are', () => {
    for (const n of [1, 2, 3, 4])
      expect(block.partsOf(block.withColumns(rows, 1, n)).map((p) => p.id)).toEqual(['a', 'b', 'c', 'd'])
    expect(shape(block.withColumns(rows, 1, 1))).toBe('a|bcd')
    expect(shape(block.withColumns(rows, 0, 2))).toBe('a,|bc,d,')
  })

  it('stacks columns in the places that they say, as the core does', () => {
    const cases: [number[], number[]][] = [
      [
        [0, 0, 0],
        [0, 1, 2],
      ],
      [
        [0, 0, 1],
        [2, 0, 1],
      ],
      [
        [3, 0, 0],
        [1, 2, 0],
      ],
      [
        [2, 2, 0, 0],
        [2, 1, 0, 3],
      ],
      [
        [4, 3, 2, 1],
        [3, 2, 1, 0],
      ],
    ]
    for (const [stacked, want] of cases)
      expect(block.stackOrder(stacked.map((s) => (s ? { stacked: s } : {})))).toEqual(want)
    const first = block.earlier(rows, 1, 1)
    expect(block.stackOrder(first[1]!.columns)).toEqual([1, 0, 2])
    expect(
      block.earlier(first, 1, 0)[1]!.columns.some((c) => c.stacked),
      'as they are written nothing is said',
    ).toBe(false)
  })

  it('takes what is written where a part stands, in a language that says nothing yet too', () => {
    expect(block.written(rows, 'a', {}, 'Fish &amp; <b>chips</b>')).toEqual({ heading: 'Fish & chips' })
    expect(block.written(rows, 'b', { links: [] }, '<p>x</p>')).toEqual({ links: [], text: '<p>x</p>' })
    expect(block.written(rows, 'd', {}, 'Mon')).toEqual({})
    expect(block.written(rows, 'gone', {}, 'x')).toEqual({})
  })

  it('names new parts anew, and forgets the words of those removed', () => {
    expect(block.newId(rows, 'text')).toBe('text')
    expect(block.newId(block.put(rows, { id: 'text', kind: 'text' }, { row: 0, column: 0, at: 0 }), 'text')).toBe(
      'text-2',
    )
    const said = block.say(block.say({ en: { message: 'm' }, de: {} }, 'en', 'b', { text: 'x' }), 'de', 'gone', {
      text: 'y',
    })
    expect(block.pruned(said, rows)).toEqual({ en: { message: 'm', parts: { b: { text: 'x' } } }, de: {} })
    for (const { value } of block.kinds) expect(block.begun(rows, value, 'a@b.example').kind).toBe(value)
  })
})
