import { expect, it } from 'vitest'
import { toggled, type Conditions } from './places'

const all: Conditions = { include: [{ match: 'all' }] }

it.each<[string, Conditions, boolean, string, 'page' | 'section', Conditions]>([
  ['a page that is in is left out', all, true, '/a', 'page', { ...all, exclude: [{ match: 'page', path: '/a' }] }],
  ['and taken in again', { ...all, exclude: [{ match: 'page', path: '/a' }] }, false, '/a', 'page', all],
  [
    'a section that was left out too',
    { ...all, exclude: [{ match: 'section', path: '/a' }] },
    false,
    '/a',
    'page',
    all,
  ],
  [
    'a page that is not in is taken in',
    { include: [] },
    false,
    '/a',
    'section',
    { include: [{ match: 'section', path: '/a' }] },
  ],
  [
    'what was taken in by name is simply dropped',
    { include: [{ match: 'page', path: '/a' }, { match: 'home' }] },
    true,
    '/a',
    'page',
    { include: [{ match: 'home' }] },
  ],
])('%s', (_, before, carried, path, match, after) => {
  const kept = JSON.stringify(before)
  expect(toggled(before, carried, path, match)).toEqual(after)
  expect(JSON.stringify(before)).toBe(kept)
})
