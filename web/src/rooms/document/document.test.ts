// The promises of a document being written: saved as it is written, one save at a
// time, and nothing lost where that fails.
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { effectScope, ref } from 'vue'
import { api, CallError, type DocumentDetail, type Me, type Problem } from '../../api/client'
import { me } from '../../instruments/me'
import { saveAll } from '../../instruments/saving'
import { useDocument } from './document'

/** What the server has, and how it answers: a change from another state is refused. */
let kept: { mark: number; answers: Record<string, string> }
let fault: CallError | undefined
const detail = () =>
  ({
    id: 'a',
    mark: String(kept.mark),
    answers: { ...kept.answers },
    questions: [],
    points: [],
  }) as unknown as DocumentDetail

beforeEach(() => {
  vi.useFakeTimers()
  setActivePinia(createPinia())
  me.value = { person: { email: 'ines@s.example' }, sites: [] } as unknown as Me
  kept = { mark: 1, answers: { operator: 'S' } }
  fault = undefined
  vi.spyOn(api, 'document').mockImplementation(async () => detail())
  vi.spyOn(api, 'changeDocument').mockImplementation(async (_s, _d, body) => {
    if (fault) throw fault
    if (body.mark !== String(kept.mark)) throw new CallError({ status: 409, detail: 'Changed meanwhile.' } as Problem)
    kept = { mark: kept.mark + 1, answers: { ...(body.answers as Record<string, string>) } }
    return detail()
  })
})
afterEach(() => {
  vi.restoreAllMocks()
  vi.useRealTimers()
})

async function open(id = 'a') {
  const scope = effectScope()
  const d = scope.run(() => useDocument('s', id, ref('en')))!
  await d.load()
  return { ...d, close: () => scope.stop() }
}

it('saves what is written a moment after the last key, each from what the last one made', async () => {
  const d = await open()
  for (const text of ['S', 'Su', 'Sun']) {
    d.answers.operator = text
    void d.saveSoon()
    await vi.advanceTimersByTimeAsync(100)
  }
  expect(kept.mark).toBe(1)
  await vi.advanceTimersByTimeAsync(1000)
  expect(kept).toEqual({ mark: 2, answers: { operator: 'Sun' } })
  d.answers.email = 'a@s.example'
  await saveAll()
  expect(kept.mark).toBe(3)
  d.close()
})

it('keeps what was refused in front of whoever wrote it, beside why', async () => {
  const d = await open()
  fault = new CallError({
    status: 422,
    detail: 'No.',
    faults: [{ pointer: '/answers/email', what: '“x” is no address', remedy: 'write it anew' }],
  } as Problem)
  d.answers.email = 'x'
  expect(await d.save()).toBe(false)
  expect(d.faults.value).toEqual({ email: '“x” is no address. Write it anew.' })
  expect(d.answers.email).toBe('x')
  fault = undefined
  d.answers.email = 'a@s.example'
  expect(await d.save()).toBe(true)
  expect(d.faults.value).toEqual({})
  d.close()
})

it('overwrites nothing that someone else wrote, and says so', async () => {
  const d = await open()
  kept = { mark: 7, answers: { operator: 'Theirs' } }
  d.answers.operator = 'Mine'
  expect(await d.save()).toBe(false)
  expect([d.stale.value, d.answers.operator, kept.answers.operator]).toEqual([true, 'Mine', 'Theirs'])
  await d.load()
  expect([d.stale.value, d.answers.operator]).toEqual([false, 'Theirs'])
  d.close()
})

it('tries again where the connection breaks, and gives back what was written in a room that was left', async () => {
  const d = await open()
  fault = new CallError()
  d.answers.operator = 'Written on the way'
  expect(await d.save()).toBe(false)
  d.close()
  const again = await open()
  expect(again.answers.operator).toBe('Written on the way')
  fault = undefined
  await vi.advanceTimersByTimeAsync(5000)
  expect(kept.answers.operator).toBe('Written on the way')
  again.close()
})

it('takes no late answer into another language or room', async () => {
  const d = await open()
  let answer!: (d: DocumentDetail) => void
  vi.spyOn(api, 'document').mockImplementationOnce(() => new Promise((r) => (answer = r)))
  const late = d.load()
  d.answers.operator = 'Newer'
  await d.save()
  answer({ ...detail(), answers: { operator: 'Older' } } as DocumentDetail)
  await late
  expect(d.answers.operator).toBe('Newer')
  d.close()
})
