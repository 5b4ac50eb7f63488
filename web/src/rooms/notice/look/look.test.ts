// What a notice looks like beyond its colours, and its pictures.
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, expect, it, vi } from 'vitest'
import { defineComponent, h, reactive } from 'vue'
import { api, CallError } from '../../../api/client'
import IconPicker from './IconPicker.vue'
import LookEditor from './LookEditor.vue'
import PicturePicker from './PicturePicker.vue'

const image = { file: '0123456789abcdef.png', width: 40, height: 20 }
const detail = {
  ...image,
  name: 'seal.png',
  size: 900,
  address: '/i/s/' + image.file,
  addedAt: '',
  addedBy: 'Ines',
  usedBy: [],
}
const quiet = { global: { config: { warnHandler: () => {} } }, attachTo: document.body }

afterEach(() => {
  document.body.innerHTML = ''
  vi.restoreAllMocks()
})

it('a look keeps what was set, and nothing that is as it would be anyway', async () => {
  vi.spyOn(api, 'contrast').mockResolvedValue({
    background: '#16202e',
    text: '#ffffff',
    ratio: 16,
    passes: true,
    nearest: '#ffffff',
  })
  const state = reactive<{ look: Record<string, unknown>; picture?: object }>({ look: { background: '#123a56' } })
  const w = mount(
    defineComponent(
      () => () =>
        h(LookEditor, {
          site: 's',
          card: false,
          modelValue: state.look,
          'onUpdate:modelValue': (v: object) => (state.look = { ...v }),
          picture: state.picture as never,
          'onUpdate:picture': (v?: object) => (state.picture = v),
        }),
    ),
    quiet,
  )
  const choose = (words: string) =>
    w
      .findAll('label')
      .find((l) => l.text() === words)!
      .find('input')
      .setValue(true)
  await choose('round')
  await choose('wide')
  expect(state.look).toEqual({ background: '#123a56', shape: 'round', width: 'wide' })
  expect(w.find('summary').text()).toContain('round corners, wide words')
  await choose('soft')
  await choose('usual')
  expect(state.look).toEqual({ background: '#123a56' })
  await w.find('textarea').setValue('.bar { color: red }')
  await w.find('textarea').trigger('change')
  expect(state.look.css).toBe('.bar { color: red }')
  await w.find('textarea').setValue('')
  await w.find('textarea').trigger('change')
  await w.find('input[role=switch]').trigger('change')
  expect(state.look).toEqual({ background: '#123a56', dark: { background: '#16202e' } })
  await flushPromises()
  expect(w.text()).toContain('In the dark')
  await w.find('input[role=switch]').trigger('change')
  expect(state.look).toEqual({ background: '#123a56' })
})

it('an icon is found by what it is for, chosen, and taken off', async () => {
  const icons = vi.spyOn(api, 'icons').mockResolvedValue({ icons: [{ name: 'storm', svg: '<svg></svg>' }] })
  const state = reactive({ icon: '' })
  const w = mount(
    defineComponent(
      () => () => h(IconPicker, { modelValue: state.icon, 'onUpdate:modelValue': (v: string) => (state.icon = v) }),
    ),
    quiet,
  )
  await w.find('button').trigger('click')
  await flushPromises()
  await w.find('[aria-label=storm]').trigger('click')
  await flushPromises()
  expect(state.icon).toBe('storm')
  expect(w.find('.panel').exists()).toBe(false)
  icons.mockResolvedValue({ icons: [] })
  await w.find('button').trigger('click')
  await flushPromises()
  expect(w.text()).toContain('No icon is called that')
  await w
    .findAll('button')
    .find((b) => b.text() === 'No icon')!
    .trigger('click')
  expect(state.icon).toBe('')
})

it('a picture is one of the site’s, or a file; what is refused is said and loses nothing', async () => {
  vi.spyOn(api, 'images').mockResolvedValue({ images: [detail] })
  vi.spyOn(api, 'facts').mockResolvedValue({ facts: [], examples: [] } as never)
  const add = vi
    .spyOn(api, 'addImage')
    .mockRejectedValue(new CallError({ detail: '“a.pdf” is not an image.' } as never))
  const state = reactive<{ picture?: Record<string, unknown> }>({})
  const w = mount(
    defineComponent(
      () => () =>
        h(PicturePicker, {
          site: 's',
          modelValue: state.picture as never,
          'onUpdate:modelValue': (v?: object) => (state.picture = v as Record<string, unknown>),
        }),
    ),
    quiet,
  )
  const press = (words: string) =>
    w
      .findAll('button')
      .find((b) => (b.attributes('aria-label') ?? b.text()) === words)!
      .trigger('click')
  await press('Choose a picture')
  await flushPromises()
  const upload = async () => {
    const input = w.find('input[type=file]')
    Object.defineProperty(input.element, 'files', { value: [new File(['x'], 'a.pdf')], configurable: true })
    await input.trigger('change')
    await vi.waitFor(() => expect(add).toHaveBeenCalled())
    await flushPromises()
  }
  await upload()
  expect(add.mock.calls[0]![1]).toEqual({ name: 'a.pdf', data: btoa('x') })
  expect(w.find('[role=alert]').text()).toContain('not an image')
  expect(state.picture).toBeUndefined()
  await w.find('.grid button').trigger('click')
  expect(state.picture).toEqual(image)
  await press('Another picture on phones')
  await flushPromises()
  await w.find('.grid button').trigger('click')
  expect(state.picture).toEqual({ ...image, phone: image })
  await press('The same on phones')
  expect(state.picture).toEqual(image)

  // Others for some: one a value, each value once; without one for all others it stays what it is for some.
  await press('Others for some visitors')
  const value = w.find('input[aria-label="Another value"]')
  await value.setValue('Gold')
  await press('Its picture')
  await flushPromises()
  await w.find('.grid button').trigger('click')
  const table = { by: 'person.name', rows: [{ value: 'Gold', ...image }] }
  expect(state.picture).toEqual({ ...image, table })
  await value.setValue('gold ')
  expect(w.text()).toContain('It has one already.')
  await press('No picture')
  expect(state.picture).toEqual({ table })
  expect(w.text()).toContain('none for all others')
  await press('Remove the picture for Gold')
  expect(state.picture).toBeUndefined()
  await press('Choose a picture')
  await flushPromises()
  await w.find('.grid button').trigger('click')
  await press('No picture')
  expect(state.picture).toBeUndefined()
})
