import { expect, it } from 'vitest'
import { branch, type Twig } from './tree'

const page = (path: string) => ({ path, title: path, language: 'en', type: '', tags: [], shows: [], soon: [], tooMuch: false })
const draw = (t: Twig[], depth = 0): string[] =>
  t.flatMap((x) => [' '.repeat(depth) + x.label + (x.page ? '' : ' -'), ...draw(x.children, depth + 1)])

it('grows by the segments of paths, with steps that are no pages', () => {
  expect(draw(branch(['/ports/fennay', '/', '/ports', '/de/ports/a', '/about'].map(page)))).toEqual([
    '/',
    '/about',
    '/de -',
    ' ports -',
    '  a',
    '/ports',
    ' fennay',
  ])
})
