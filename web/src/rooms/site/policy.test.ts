// What a site's own policy has to allow.
import { mount } from '@vue/test-utils'
import { expect, it, vi } from 'vitest'
import { ref } from 'vue'
import PolicyPart from './PolicyPart.vue'

const detail = ref({ policies: [] as object[] })
vi.mock('../../state/sites', () => ({ useSite: () => ({ detail }) }))

it('is said by page and directive, and the whole policy is there to copy unless it has a nonce', async () => {
  const written = vi.fn().mockResolvedValue(undefined)
  Object.defineProperty(navigator, 'clipboard', { configurable: true, value: { writeText: written } })
  const part = mount(PolicyPart)
  expect(part.text()).toBe('')
  detail.value = {
    policies: [
      {
        pages: 61,
        page: '/fares',
        nonce: true,
        add: [{ directive: 'connect-src', sources: ['https://notices.test'] }],
        policy: "script-src 'nonce-…'; connect-src 'self' https://notices.test",
      },
      {
        pages: 1,
        page: '/book',
        nonce: false,
        add: [{ directive: 'script-src', sources: ["'sha256-a='", 'https://notices.test'] }],
        policy: "script-src 'sha256-a=' https://notices.test",
      },
      { pages: 2, page: '/x', nonce: true, add: [], policy: "script-src 'nonce-…'" },
    ],
  }
  await part.vm.$nextTick()
  const [first, second, third] = part.findAll('section > div').map((d) => d.text().replace(/\s+/g, ' '))
  expect(first).toContain('61 pages, /fares among them, have a Content-Security-Policy.')
  expect(first).toContain('Both lines need the policy’s nonce')
  expect(first).toContain('Notices show there once it also lists:connect-srchttps://notices.test')
  expect(second).toContain('The page /book has a Content-Security-Policy. Notices show there once it also lists:')
  expect(third).not.toContain('also lists')
  const copy = part.findAll('button')
  expect(copy).toHaveLength(1)
  await copy[0]!.trigger('click')
  expect(written).toHaveBeenCalledWith("script-src 'sha256-a=' https://notices.test")
})
