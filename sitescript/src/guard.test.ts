// What the guard holds, by the table of cases of the core. That it holds it whatever way it takes into a page is tested
// in a browser (e2e/guard_test.go).
import { describe, expect, it } from 'vitest'
import table from '../../core/consent/testdata/holds.json'
import { purposeOf, type What } from './holds'
import type { Holds } from './shapes'

const holds = table.holds as Holds

describe('what a row holds (rules H1 and H3)', () => {
  it.each(table.cases)('%s %s: %s', (what, subject, purpose) => {
    expect(purposeOf(holds, what as What, subject)).toBe(purpose)
  })
})
