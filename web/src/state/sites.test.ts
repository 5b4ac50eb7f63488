// A site's state: the last that was asked for or changed counts, and what is refused changes nothing.
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { api, CallError, type Problem, type SiteDetail } from '../api/client'
import { useSites } from './sites'

const detail = (name: string, revision = 1) => ({ revision, site: { key: 's', name, language: 'en' } }) as SiteDetail

beforeEach(() => setActivePinia(createPinia()))
afterEach(() => vi.restoreAllMocks())

it('keeps the answer to what was asked last, however late others come', async () => {
  const answers: ((d: SiteDetail) => void)[] = []
  vi.spyOn(api, 'site').mockImplementation(() => new Promise((r) => answers.push(r)))
  const sites = useSites()
  const first = sites.open('s')
  const second = sites.open('s')
  answers[1]!(detail('second'))
  await second
  answers[0]!(detail('first'))
  await first
  expect(sites.details.get('s')?.site.name).toBe('second')
  const late = sites.load('s')
  sites.take('s', detail('changed meanwhile', 2))
  answers[2]!(detail('second'))
  await late
  expect(sites.details.get('s')?.site.name).toBe('changed meanwhile')
})

it('changes parts of what was read, from its revision, and stays as it is where that is refused', async () => {
  vi.spyOn(api, 'site').mockResolvedValue(detail('Ferries', 7))
  const put = vi.spyOn(api, 'changeSite').mockImplementation(async (_, b) => detail(b.site.name, b.revision + 1))
  const sites = useSites()
  await expect(sites.change('s', () => ({ name: 'Boats' }))).rejects.toBeInstanceOf(CallError)
  await sites.open('s')
  await sites.change('s', (s) => ({ name: `${s.name} of the isles` }))
  expect(put).toHaveBeenLastCalledWith('s', expect.objectContaining({ revision: 7 }))
  expect(sites.details.get('s')).toEqual(detail('Ferries of the isles', 8))

  put.mockRejectedValueOnce(new CallError({ status: 409, revision: 9, title: '', detail: 'x' } as Problem))
  await expect(sites.change('s', () => ({ name: 'Boats' }))).rejects.toThrow('Someone else changed the site meanwhile.')
  put.mockRejectedValueOnce(new CallError({ status: 422, title: '', detail: 'The name is too long.' } as Problem))
  await expect(sites.change('s', () => ({ name: 'Boats' }))).rejects.toThrow('The name is too long.')
  expect(sites.details.get('s')?.revision).toBe(8)
})
