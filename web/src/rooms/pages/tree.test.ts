import { expect, it } from 'vitest'
import { isBelow } from '../../instruments/paths'
import { below, branch, count, folders, type Twig } from './tree'

const page = (path: string) => ({
  path,
  title: path,
  language: 'en',
  type: '',
  tags: [],
  shows: [],
  soon: [],
  soonMore: 0,
  set: 0,
  tooMuch: false,
})
const draw = (t: Twig[], depth = 0): string[] =>
  t.flatMap((x) => [' '.repeat(depth) + x.label + (x.page ? '' : ' -'), ...draw(x.children, depth + 1)])

it('says what lies in it', () => {
  const twigs = branch(
    ['/', '/ports', '/ports/fennay', '/ports-of-call', '/ports/fennay/quay', '/de/ports/a'].map(page),
  )
  expect(twigs.map((t) => [t.path, below(t)])).toEqual([
    ['/', 0],
    ['/de', 1],
    ['/ports', 2],
    ['/ports-of-call', 0],
  ])
  expect(count(twigs)).toBe(8)
  expect(folders(twigs)).toEqual(['/de', '/de/ports', '/ports', '/ports/fennay'])
})

it('has pages behind a # below the page that has them', () => {
  expect(draw(branch(['/#/ports/fennay', '/', '/app', '/app#!/a', '/app/b'].map(page)))).toEqual([
    '/',
    ' #/ports -',
    '  fennay',
    '/app',
    ' #!/a',
    ' b',
  ])
  expect([isBelow('/app#/a', '/app'), isBelow('/#/a', '/'), isBelow('/a', '/'), isBelow('/apple', '/app')]).toEqual([
    true,
    true,
    false,
    false,
  ])
})

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
