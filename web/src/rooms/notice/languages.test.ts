// Languages side by side: what is unread is read, what is old is looked at.
import { mount } from '@vue/test-utils'
import { expect, it, vi } from 'vitest'
import { defineComponent, h, reactive, ref } from 'vue'
import LanguagesPanel from './LanguagesPanel.vue'

const language = ref('de')
vi.mock('../../instruments/viewpoint', () => ({
  useViewpoint: () => ({ site: ref('s'), language, look: (to: { language: string }) => (language.value = to.language) }),
}))

it('shows how each language stands, and marks one as read', async () => {
  const state = reactive({
    words: { en: { message: 'Hello' }, de: { message: 'Hallo', unread: true, of: 'x' }, pl: { message: 'Cześć', of: 'old' } } as Record<
      string,
      object
    >,
  })
  const states = reactive([
    { tag: 'en', state: 'current' },
    { tag: 'de', state: 'unread' },
    { tag: 'pl', state: 'old' },
  ])
  const panel = defineComponent(
    () => () =>
      h(LanguagesPanel, {
        detail: { languages: states, card: { id: 'a' } } as never,
        site: { site: { language: 'en' } } as never,
        known: [],
        picture: false,
        modelValue: state.words as never,
        'onUpdate:modelValue': (v: Record<string, object>) => (state.words = v),
      }),
  )
  const w = mount(panel, { global: { stubs: { WordingEditor: true }, config: { warnHandler: () => {} } }, attachTo: document.body })
  const press = (words: string) =>
    w
      .findAll('button')
      .find((b) => b.text().startsWith(words))!
      .trigger('click')
  expect(w.text()).toContain('German a machine’s draft, unread')
  await press('I have read it')
  expect(state.words.de).toEqual({ message: 'Hallo' })
  await press('Polish')
  expect(language.value).toBe('pl')
  await press('It is still right')
  expect(state.words.pl).toEqual({ message: 'Cześć' })
  await press('Have it drafted')
  expect(w.findComponent(LanguagesPanel).emitted('draft')).toEqual([['pl']])
  expect(state.words.en).toEqual({ message: 'Hello' })
})
