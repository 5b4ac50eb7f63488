// The facts that audiences ask about, and the words for their tests.
import { shallowRef } from 'vue'
import { api, type FactChoice, type FactList, type Node } from '../../../api/client'

const list = shallowRef<FactList>()

/** What can be asked about, once it is there. */
export function useFacts() {
  if (!list.value) void api.facts().then((l) => (list.value = l))
  return list
}

export const testWords: Record<string, string> = {
  eq: 'is',
  ne: 'is not',
  in: 'is one of',
  'not-in': 'is none of',
  contains: 'contains',
  starts: 'starts with',
  ends: 'ends with',
  like: 'matches (* stands for anything)',
  gte: 'is at least',
  lte: 'is at most',
  gt: 'is more than',
  lt: 'is less than',
  between: 'is between',
  has: 'includes',
  'has-any': 'includes one of',
  'has-none': 'includes none of',
  before: 'is before',
  after: 'is after',
  set: 'is known',
  unset: 'is not known',
}

/** Which value a test takes. */
export function wants(test: string | undefined): 'none' | 'one' | 'list' | 'two' {
  switch (test) {
    case 'set':
    case 'unset':
      return 'none'
    case 'in':
    case 'not-in':
    case 'has-any':
    case 'has-none':
      return 'list'
    case 'between':
      return 'two'
  }
  return 'one'
}

/** What stands in a fact's name for names of the site's own: of events, traits, parameters, notices and properties. */
const marks = /NAME|ID|PROPERTY/g
/** What each of them is called. */
const markWords: Record<string, string> = { NAME: 'Its name', ID: 'Which notice', PROPERTY: 'Which property' }

/** What names of the site's own a fact takes, in the words for them. */
export const namesOf = (f: FactChoice): string[] => [...f.name.matchAll(marks)].map(([m]) => markWords[m])

/** A fact's label with names of the site's own in it. */
export const labelOf = (f: FactChoice, own: string[]) => {
  const names = Object.fromEntries([...f.name.matchAll(marks)].map(([m], i) => [m, own[i]]))
  return f.label.replace(marks, (m) => names[m] || '…')
}

/** The fact of that name, or the form that it is of, with the names of the site's own in it. */
export function formOf(facts: FactChoice[], name: string): { fact?: FactChoice; own: string[] } {
  const plain = facts.find((f) => f.name === name && !namesOf(f).length)
  if (plain) return { fact: plain, own: [] }
  for (const f of facts) {
    if (!namesOf(f).length) continue
    const pattern = f.name.replaceAll('.', String.raw`\.`).replace(marks, '(.*)')
    const [, ...own] = new RegExp(`^${pattern}$`).exec(name) ?? []
    if (own.length) return { fact: f, own }
  }
  return { own: [] }
}

/** Names of the site's own put into a form, in their order. */
export const nameIn = (form: string, own: string[]) => {
  let at = 0
  return form.replace(marks, () => own[at++] ?? 'name')
}

/** A condition on a fact that is right from the start. */
export function begin(fact: FactChoice, own: string[] = []): Node {
  const is = fact.kind === 'number' ? 'gte' : fact.kind === 'set' ? 'has' : fact.kind === 'date-time' ? 'after' : 'eq'
  const name = nameIn(fact.name, own)
  if (fact.kind === 'number') return { fact: name, is, value: name === 'view.scroll' ? 30 : Math.max(fact.min, 1) }
  if (fact.kind === 'date-time') return { fact: name, is, value: new Date().toISOString().slice(0, 10) + 'T00:00' }
  return { fact: name, is, value: fact.choices?.[0]?.value ?? '' }
}

/** Gives a condition another test, and keeps of its value what fits. */
export function retest(n: Node, is: Node['is'], fact: FactChoice): Node {
  const had = Array.isArray(n.value) ? n.value : n.value === undefined ? [] : [n.value]
  const fresh = begin(fact).value
  const first = had[0] ?? (Array.isArray(fresh) ? fresh[0] : fresh)
  const next: Node = { ...n, is }
  delete next.value
  switch (wants(is)) {
    case 'one':
      next.value = first
      break
    case 'list':
      next.value = had.length ? had : first === '' ? [] : [first]
      break
    case 'two':
      next.value = [first, had[1] ?? first]
  }
  return next
}

/** Common wishes, each one press. */
export const wishes: { label: string; node: Node }[] = [
  { label: 'come from a search', node: { fact: 'referrer.class', is: 'eq', value: 'search' } },
  { label: 'use a phone', node: { fact: 'device.kind', is: 'eq', value: 'phone' } },
  { label: 'have been here before', node: { fact: 'visits.number', is: 'gte', value: 2 } },
  { label: 'have read 30 % of the page', node: { fact: 'view.scroll', is: 'gte', value: 30 } },
  { label: 'stay for 5 seconds', node: { fact: 'view.seconds', is: 'gte', value: 5 } },
  { label: 'are about to leave', node: { fact: 'view.leaving', is: 'eq', value: 1 } },
  { label: 'are in a country', node: { fact: 'place.country', is: 'in', value: ['GB'] } },
]
