// The draft's promises: one save at a time, and nothing written is lost.
import { flushPromises } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { effectScope, ref } from 'vue'
import { api, CallError, type Me, type NoticeDetail, type Problem } from '../../api/client'
import { me } from '../../instruments/me'
import { saveAll } from '../../instruments/saving'
import { useDraft } from './draft'

let revision = 1
const detail = (title: string) =>
  ({
    notice: { id: 'a', kind: 'bar', title },
    card: { id: 'a', revision, flag: 'draft' },
    findings: [],
  }) as unknown as NoticeDetail

function open(id = 'a') {
  const scope = effectScope()
  const d = scope.run(() => useDraft('s', id, ref({}), () => {}))!
  return { ...d, close: () => scope.stop() }
}

beforeEach(() => {
  vi.useFakeTimers()
  setActivePinia(createPinia())
  revision = 1
  vi.spyOn(api, 'notice').mockImplementation(async () => detail('old'))
})
afterEach(() => {
  me.value = undefined
  vi.restoreAllMocks()
  vi.useRealTimers()
})

/** A server that answers late, and later to some than to others: what each notice says, and what was asked. */
function slowServer(wait: () => number) {
  const says: Record<string, { title: string; revision: number }> = {
    a: { title: 'a', revision: 1 },
    b: { title: 'b', revision: 1 },
  }
  const late = () => new Promise((r) => setTimeout(r, wait()))
  const of = (id: string) =>
    ({
      notice: { id, kind: 'bar', title: says[id]!.title },
      card: { id, revision: says[id]!.revision, flag: 'draft' },
      findings: [],
    }) as unknown as NoticeDetail
  vi.spyOn(api, 'notice').mockImplementation(async (_s, id) => {
    expect(id).toMatch(/^[ab]$/)
    await late()
    const d = of(id)
    await late()
    return d
  })
  vi.spyOn(api, 'changeNotice').mockImplementation(async (_s, id, _q, body) => {
    await late()
    const n = says[id]!
    if (body.revision !== n.revision)
      throw new CallError({ status: 409, title: '', type: '', revision: n.revision } as Problem)
    says[id] = { title: body.notice.title!, revision: n.revision + 1 }
    const d = of(id)
    await late()
    return d
  })
  return says
}

it('saves what was written in a room in its own notice, wherever people go next', async () => {
  const says = slowServer(() => 200)
  const a = open('a')
  await vi.advanceTimersByTimeAsync(1000)
  a.notice.value!.title = 'written in a'
  await vi.advanceTimersByTimeAsync(100)
  a.close()
  const b = open('b')
  await vi.advanceTimersByTimeAsync(1000)
  expect(b.notice.value!.title).toBe('b')
  expect(says).toMatchObject({ a: { title: 'written in a' }, b: { title: 'b', revision: 1 } })
  expect(b.canUndo.value).toBe(false)
  // Back at once, while the last key is still on its way.
  b.notice.value!.title = 'written in b'
  b.close()
  const again = open('b')
  await vi.advanceTimersByTimeAsync(2000)
  expect([again.notice.value!.title, again.saving.value]).toEqual(['written in b', 'saved'])
  again.notice.value!.title = 'and more'
  await vi.advanceTimersByTimeAsync(2000)
  expect(again.saving.value).toBe('saved')
  expect(says.b!.title).toBe('and more')
  again.close()
})

it('gives back what was refused or could not be saved when the notice is opened again', async () => {
  const says = slowServer(() => 10)
  const change = vi.mocked(api.changeNotice)
  for (const problem of [undefined, { status: 422, title: '', type: '' } as Problem]) {
    const d = open('a')
    await vi.advanceTimersByTimeAsync(100)
    change.mockRejectedValueOnce(new CallError(problem))
    d.notice.value!.title = `after ${problem?.status}`
    d.close()
    await vi.advanceTimersByTimeAsync(100)
    const again = open('a')
    await vi.advanceTimersByTimeAsync(1000)
    expect([again.notice.value!.title, again.saving.value]).toEqual([`after ${problem?.status}`, 'saved'])
    expect(says.a!.title).toBe(`after ${problem?.status}`)
    again.close()
  }
})

it('is saved before signing out, and by nobody but whoever wrote it', async () => {
  const says = slowServer(() => 10)
  const as = (email: string) =>
    (me.value = { person: { email, name: email, role: 'editor', sites: [] }, sites: [] } as unknown as Me)
  as('ann@example.org')
  const d = open('a')
  await vi.advanceTimersByTimeAsync(100)
  d.notice.value!.title = 'the last key'
  await Promise.all([saveAll(), vi.advanceTimersByTimeAsync(100)])
  expect(says.a!.title).toBe('the last key')
  // The connection is lost meanwhile, and someone else signs in.
  vi.mocked(api.changeNotice).mockRejectedValueOnce(new CallError())
  d.notice.value!.title = 'what Ann wrote'
  await Promise.all([saveAll(), vi.advanceTimersByTimeAsync(100)])
  me.value = undefined
  d.close()
  as('ben@example.org')
  const other = open('a')
  await vi.advanceTimersByTimeAsync(20_000)
  expect([other.notice.value!.title, says.a!.title]).toEqual(['the last key', 'the last key'])
  other.close()
  as('ann@example.org')
  const again = open('a')
  await vi.advanceTimersByTimeAsync(1000)
  expect([again.notice.value!.title, says.a!.title]).toEqual(['what Ann wrote', 'what Ann wrote'])
  again.close()
})

it('never mixes two notices, whatever is written, left and opened while answers are slow', async () => {
  const seed = Date.now() % 1e6
  let state = seed
  const random = (n: number) => (state = (state * 1_103_515_245 + 12_345) % 2 ** 31) % n
  for (let run = 0; run < 60; run++) {
    const says = slowServer(() => random(900))
    const wrote: Record<string, string> = { a: 'a', b: 'b' }
    let id = 'a'
    let room = open(id)
    for (let step = 0; step < 25; step++) {
      await vi.advanceTimersByTimeAsync(random(1200))
      const what = random(4)
      if (what < 2 && room.notice.value) {
        // Whatever is on screen was last written in this notice.
        expect(room.notice.value.title, `seed ${seed}, run ${run}`).toBe(wrote[id])
        wrote[id] = room.notice.value.title = `${id} ${run}.${step}`
      } else if (what === 2) {
        room.close()
        id = random(2) ? 'a' : 'b'
        room = open(id)
      } else if (room.canUndo.value && room.saving.value === 'saved') {
        void room.undo()
        await vi.advanceTimersByTimeAsync(4000)
        expect(room.notice.value!.title, `seed ${seed}, run ${run}`).toMatch(new RegExp(`^${id}`))
        wrote[id] = room.notice.value!.title!
      }
    }
    room.close()
    await vi.advanceTimersByTimeAsync(20_000)
    expect({ a: says.a!.title, b: says.b!.title }, `seed ${seed}, run ${run}`).toEqual(wrote)
    vi.restoreAllMocks()
  }
})

it('saves one after the other, each from the revision that the last one made', async () => {
  const seen: number[] = []
  vi.spyOn(api, 'changeNotice').mockImplementation(async (_s, _n, _q, body) => {
    seen.push(body.revision)
    await new Promise((r) => setTimeout(r, 500))
    revision++
    return detail(body.notice.title!)
  })
  const d = open()
  await flushPromises()
  d.notice.value!.title = 'one'
  const first = d.save()
  d.notice.value!.title = 'two'
  const second = d.save()
  await vi.advanceTimersByTimeAsync(2000)
  expect(await first).toBe(true)
  expect(await second).toBe(true)
  expect(seen[0]).toBe(1)
  expect(new Set(seen).size).toBe(seen.length)
  expect(d.saving.value).toBe('saved')
  d.close()
})

it('keeps what was written while the connection is lost, and saves it when it is back', async () => {
  const change = vi.spyOn(api, 'changeNotice').mockRejectedValueOnce(new CallError())
  const d = open()
  await flushPromises()
  d.notice.value!.title = 'new'
  await vi.advanceTimersByTimeAsync(400)
  expect(d.saving.value).toBe('offline')
  expect(d.notice.value!.title).toBe('new')
  change.mockImplementation(async (_s, _n, _q, body) => detail(body.notice.title!))
  await vi.advanceTimersByTimeAsync(3100)
  expect(d.saving.value).toBe('saved')
  expect(change.mock.calls.at(-1)![3].notice.title).toBe('new')
  d.close()
})

it('does not write over what someone else wrote, until it is told to', async () => {
  const change = vi
    .spyOn(api, 'changeNotice')
    .mockRejectedValueOnce(new CallError({ status: 409, title: '', type: '', revision: 7 } as Problem))
  const d = open()
  await flushPromises()
  d.notice.value!.title = 'mine'
  await vi.advanceTimersByTimeAsync(400)
  expect(d.saving.value).toBe('stale')
  d.notice.value!.title = 'mine too'
  await vi.advanceTimersByTimeAsync(400)
  expect(change).toHaveBeenCalledTimes(1)
  revision = 7
  change.mockImplementation(async (_s, _n, _q, body) => {
    expect(body.revision).toBe(7)
    return detail(body.notice.title!)
  })
  await d.settle(true)
  expect(d.saving.value).toBe('saved')
  expect(change.mock.calls.at(-1)![3].notice.title).toBe('mine too')
  d.close()
})

it('has all kept that was written while someone else wrote, before it shows theirs or is left', async () => {
  const refused = () => new CallError({ status: 409, title: '', type: '', revision: 7 } as Problem)
  const change = vi.spyOn(api, 'changeNotice').mockImplementation(async () => {
    throw refused()
  })
  const told = () => change.mock.calls.map((c) => c[3].notice.title)
  const d = open()
  await flushPromises()
  const from = revision
  d.notice.value!.title = 'min'
  await vi.advanceTimersByTimeAsync(400)
  d.notice.value!.title = 'mine'
  await vi.advanceTimersByTimeAsync(400)
  expect([d.saving.value, told()]).toEqual(['stale', ['min']])
  revision = 7
  await d.load(false) // another moment is looked at: theirs is the newest, and not to be written over
  change.mockRejectedValueOnce(new CallError())
  await d.settle(false)
  expect([d.saving.value, d.notice.value!.title]).toEqual(['stale', 'mine']) // nobody has it yet
  change.mockImplementationOnce(async () => {
    d.notice.value!.title = 'mine too' // typed while the answer is on its way
    throw refused()
  })
  await Promise.all([d.settle(false), d.settle(false)])
  expect([d.saving.value, d.notice.value!.title, told()]).toEqual(['saved', 'old', ['min', 'mine', 'mine', 'mine too']])
  expect(change.mock.calls.map((c) => c[3].revision)).toEqual([from, from, from, from])
  d.close()

  const left = open()
  await flushPromises()
  left.notice.value!.title = 'one'
  await vi.advanceTimersByTimeAsync(400)
  left.notice.value!.title = 'two'
  left.close()
  await flushPromises()
  expect(told().slice(4)).toEqual(['one', 'two'])
})

it('goes back and forth through what was written, until something new is', async () => {
  vi.spyOn(api, 'changeNotice').mockImplementation(async (_s, _n, _q, body) => {
    revision++
    return detail(body.notice.title!)
  })
  const d = open()
  await flushPromises()
  const write = async (title: string) => {
    d.notice.value!.title = title
    await vi.advanceTimersByTimeAsync(400)
  }
  await write('one')
  await write('two')
  await d.undo()
  expect([d.notice.value!.title, d.canRedo.value]).toEqual(['one', true])
  await d.undo()
  await d.undo()
  expect([d.notice.value!.title, d.canUndo.value]).toEqual(['old', false])
  await d.redo()
  await d.redo()
  expect([d.notice.value!.title, d.canRedo.value]).toEqual(['two', false])
  await d.undo()
  await write('three')
  expect(d.canRedo.value).toBe(false)
  await d.undo()
  expect(d.notice.value!.title).toBe('one')
  d.close()
})

it('says again what the server noted of a translation, so that it grows old with the original', async () => {
  const sent: (string | undefined)[] = []
  vi.spyOn(api, 'changeNotice').mockImplementation(async (_s, _n, _q, body) => {
    sent.push(body.notice.content!.wordings!.de!.source)
    const d = detail('old')
    d.notice.content = { wordings: { en: { message: 'x' }, de: { message: 'y', source: 'mark' } } }
    return d
  })
  const d = open()
  await flushPromises()
  d.notice.value!.content = { wordings: { en: { message: 'x' }, de: { message: 'y' } } }
  await vi.advanceTimersByTimeAsync(400)
  expect(d.saving.value).toBe('saved')
  await vi.advanceTimersByTimeAsync(2000)
  d.notice.value!.content!.wordings!.en!.message = 'z'
  await vi.advanceTimersByTimeAsync(400)
  expect(sent).toEqual([undefined, 'mark'])
  d.close()
})
