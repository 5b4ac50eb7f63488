// The draft's promises: one save at a time, and nothing written is lost.
import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { effectScope, ref } from 'vue'
import { api, CallError, type NoticeDetail, type Problem } from '../../api/client'
import { useDraft } from './draft'

let revision = 1
const detail = (title: string) =>
  ({ notice: { id: 'a', kind: 'bar', title }, card: { id: 'a', revision, flag: 'draft' }, findings: [] }) as unknown as NoticeDetail

function open() {
  const scope = effectScope()
  const d = scope.run(() => useDraft(ref('s'), ref('a'), ref({}), () => {}))!
  return { ...d, close: () => scope.stop() }
}

beforeEach(() => {
  vi.useFakeTimers()
  revision = 1
  vi.spyOn(api, 'notice').mockImplementation(async () => detail('old'))
})
afterEach(() => {
  vi.restoreAllMocks()
  vi.useRealTimers()
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
    sent.push(body.notice.content!.wordings!.de!.of)
    const d = detail('old')
    d.notice.content = { wordings: { en: { message: 'x' }, de: { message: 'y', of: 'mark' } } }
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
