// Languages side by side: what is unread is read, what is old is looked at.
import { readFileSync, writeFileSync } from 'node:fs'
import { mount } from '@vue/test-utils'
import { expect, it, vi } from 'vitest'
import { defineComponent, h, reactive, ref } from 'vue'
// @ts-expect-error -- it ships no types
import { js2xliff, xliff2js } from 'xliff'
import LanguagesPanel from './LanguagesPanel.vue'

const language = ref('de')
vi.mock('../../instruments/viewpoint', () => ({
  useViewpoint: () => ({
    site: ref('s'),
    language,
    look: (to: { language: string }) => (language.value = to.language),
  }),
}))

it('shows how each language stands, and marks one as read', async () => {
  const state = reactive({
    words: {
      en: { message: 'Hello' },
      de: { message: 'Hallo', unread: true, source: 'x' },
      pl: { message: 'Cześć', source: 'old' },
    } as Record<string, object>,
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
  const w = mount(panel, {
    global: { stubs: { WordingEditor: true }, config: { warnHandler: () => {} } },
    attachTo: document.body,
  })
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

it('a translator’s document is one that a general library reads', async () => {
  const js = await xliff2js(readFileSync('../core/xliff/testdata/sample.xlf', 'utf8'))
  expect([js.xliffVersion, js.sourceLanguage, js.targetLanguage]).toEqual(['2.1', 'en', 'de'])
  expect(Object.keys(js.resources)).toEqual(['storm', 'fair'])
  expect(Object.keys(js.resources.storm!)).toEqual(['message', 'label', 'alt'])
  expect(js.resources.storm!.label).toMatchObject({ source: 'More' })
  const { source, target } = js.resources.storm!.message as Record<string, { Span: { contents: unknown[] } }>
  expect(source!.Span.contents[1]).toMatchObject({ Span: { type: 'fmt', contents: 'boats' } })
  expect(source!.Span.contents[3]).toMatchObject({ Standalone: { type: 'fmt' } })
  expect(source!.Span.contents[5]).toMatchObject({ Span: { type: 'link', contents: 'status' } })
  expect(target!.Span.contents[1]).toMatchObject({ Span: { contents: 'Boote' } })
  // What it makes of the document is read back by the core's tests.
  const path = '../core/xliff/testdata/rewritten.xlf'
  const rewritten = await js2xliff(js)
  if (process.env.UPDATE) writeFileSync(path, rewritten)
  expect(rewritten, 'run with UPDATE=1').toBe(readFileSync(path, 'utf8'))
})
