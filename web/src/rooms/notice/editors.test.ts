// The editors behind the words of the order line, and of what a notice says.
import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, reactive, ref } from 'vue'
import { api } from '../../api/client'
import OrderLine from '../../instruments/OrderLine.vue'
import Gates from '../../instruments/Gates.vue'
import Halyard from '../../instruments/Halyard.vue'
import PeriodChoice from '../../instruments/PeriodChoice.vue'
import { ownSite } from '../../instruments/viewpoint'
import ColourEditor from './look/ColourEditor.vue'
import WordingEditor from './WordingEditor.vue'
import AudienceWord from './words/AudienceWord.vue'
import ConsentWord from './words/ConsentWord.vue'
import ClosingWord from './words/ClosingWord.vue'
import PagesWord from './words/PagesWord.vue'
import RepeatEditor from './words/RepeatEditor.vue'
import ScheduleWord from './words/ScheduleWord.vue'
import SlotWord from './words/SlotWord.vue'

/** Mounts an editor on a value that it can change. */
function edit<T extends object>(editor: unknown, value: T, props: object = {}) {
  const state = reactive({ value }) as { value: T }
  const wrapper = mount(
    defineComponent(
      () => () =>
        h(editor as never, { ...props, modelValue: state.value, 'onUpdate:modelValue': (v: T) => (state.value = v) }),
    ),
    {
      global: {
        stubs: { RichText: true },
        provide: { [ownSite as symbol]: ref('s') },
        config: { warnHandler: () => {} },
      },
      attachTo: document.body,
    },
  )
  return { wrapper, state }
}
const press = async (w: ReturnType<typeof edit>['wrapper'], words: string) => {
  const hit = w.findAll('button, label').find((b) => (b.attributes('aria-label') ?? b.text()) === words)
  if (!hit) throw new Error(`nothing is called ${words}: ${w.text()}`)
  await (hit.element.tagName === 'LABEL' ? hit.find('input').setValue(true) : hit.trigger('click'))
}

beforeEach(() => setActivePinia(createPinia()))
afterEach(() => {
  document.body.innerHTML = ''
  vi.restoreAllMocks()
})

describe('wording', () => {
  const props = { lang: 'en', name: 'English', known: ['/status'] }
  it('has a link or a longer message, never both, and gives back the one put aside', async () => {
    const { wrapper, state } = edit(
      WordingEditor,
      { message: 'a', link: { href: '/status', label: 'Go' } } as Record<string, unknown>,
      props,
    )
    await press(wrapper, 'a longer message')
    expect(state.value).toEqual({ message: 'a', details: '' })
    state.value = { message: 'a', details: 'More' }
    await press(wrapper, 'a link')
    expect(state.value).toEqual({ message: 'a', link: { href: '/status', label: 'Go' } })
    await press(wrapper, 'nothing')
    expect(state.value).toEqual({ message: 'a' })
    await press(wrapper, 'a longer message')
    expect(state.value).toEqual({ message: 'a', details: 'More' })
  })
})

describe('colours', () => {
  const contrast = { background: '#ffffff', text: '#777777', ratio: 4.48, passes: false, nearest: '#767676' }
  it('say how well they read and offer the nearest that does', async () => {
    vi.spyOn(api, 'contrast').mockResolvedValue({ ...contrast, text: '#767676', ratio: 4.54, passes: true })
    const { wrapper, state } = edit(
      ColourEditor,
      { background: '#ffffff', text: '#777777' },
      { palette: [{ name: 'Sand', value: '#f6d9a8' }], contrast },
    )
    expect(wrapper.text()).toContain('Contrast 4.5 : 1, too low: 4.5 is needed.')
    await wrapper.find('.contrast button').trigger('click')
    expect(state.value).toEqual({ background: '#ffffff', text: '#767676' })
    await flushPromises()
    expect(wrapper.text()).toContain('Easy to read')
    await press(wrapper, 'Field: Sand')
    await press(wrapper, 'Best to read')
    expect(state.value).toEqual({ background: '#f6d9a8' })
  })
  it('shows nothing that was said of colours before', async () => {
    const said = reactive({ background: '#ffffff', text: '#000000', ratio: 21, passes: true, nearest: '#000000' })
    vi.spyOn(api, 'contrast').mockImplementation(async (background, text) => ({
      background,
      text,
      ratio: 1,
      passes: false,
      nearest: '#000000',
    }))
    const props = reactive({ palette: [{ name: 'Sand', value: '#f6d9a8' }], contrast: { ...said } })
    const { wrapper } = edit(ColourEditor, { background: '#ffffff', text: '#000000' }, props)
    await press(wrapper, 'Field: Sand')
    await flushPromises()
    expect(wrapper.text()).toContain('too low')
    props.contrast = { ...said } // the answer to an earlier save
    await flushPromises()
    expect(wrapper.text()).toContain('too low')
  })
})

describe('how consent is asked', () => {
  it('lets a refusal hold for a time of its own, chosen or typed', async () => {
    const { wrapper, state } = edit(ConsentWord, {} as Record<string, unknown>)
    const choice = (label: string) => wrapper.findAllComponents(PeriodChoice).find((c) => c.props('label') === label)!
    const refusing = () => choice('Refusing holds for').findComponent({ name: 'ElSelect' })
    refusing().vm.$emit('change', 'P1D')
    expect(state.value).toEqual({ refusalHolds: 'P1D' })
    await flushPromises()
    refusing().vm.$emit('change', 'other')
    await flushPromises()
    await wrapper
      .find('[aria-label="Refusing holds for, number"] input, input[aria-label="Refusing holds for, number"]')
      .setValue(6)
    choice('Refusing holds for').findAllComponents({ name: 'ElSelect' })[1]!.vm.$emit('change', 'months')
    await flushPromises()
    expect(state.value).toEqual({ refusalHolds: 'P6M' })
    refusing().vm.$emit('change', 'same')
    expect(state.value).toEqual({})
    await flushPromises()
    choice('Agreeing holds for').findComponent({ name: 'ElSelect' }).vm.$emit('change', 'P1Y')
    expect(state.value).toEqual({ holds: 'P1Y' })
  })
})

describe('closing', () => {
  it('warns where visitors cannot close it', async () => {
    const { wrapper, state } = edit(ClosingWord, { closed: 'P1D' } as Record<string, unknown>)
    expect(wrapper.text()).not.toContain('in the way of everyone')
    await wrapper.find('input[role=switch]').trigger('change')
    expect(state.value).toEqual({ closed: 'P1D', closable: false })
    expect(wrapper.text()).toContain('in the way of everyone')
    await wrapper.find('input[role=switch]').trigger('change')
    expect(state.value).toEqual({ closed: 'P1D' })
  })
})

const known = (...paths: string[]) =>
  paths.map((path) => ({ path, title: '', language: 'en', type: '', tags: [], snippet: '' }))

describe('pages', () => {
  it('are taken in and left out by clicking, by the smallest change', async () => {
    const props = reactive({
      known: known('/', '/ports', '/ports/a'),
      on: ['/', '/ports', '/ports/a'],
      unplaced: ['/ports/a'],
      fresh: [],
      sets: ['all ports'],
      findings: [] as unknown[],
    })
    const { wrapper, state } = edit(PagesWord, { include: [{ match: 'all' }] } as Record<string, unknown>, props)
    const click = (path: string) =>
      wrapper
        .findAll('.tree .toggle')
        .find((b) => b.text().includes(path))!
        .trigger('click')
    expect(
      wrapper
        .find('.tree')
        .text()
        .match(/no spot there/g),
    ).toHaveLength(1)
    await click('/ports/a')
    expect(state.value.exclude).toEqual([{ match: 'page', path: '/ports/a' }])
    await click('/ports/a')
    expect(state.value).toEqual({ include: [{ match: 'all' }] })
    await press(wrapper, '/ports and all below it')
    expect(state.value.exclude).toEqual([{ match: 'section', path: '/ports' }])
    props.on = []
    state.value = { include: [] }
    await flushPromises()
    await click('/ports/a')
    expect(state.value.include).toEqual([{ match: 'page', path: '/ports/a' }])
    await press(wrapper, 'Save these places as a page set')
    await wrapper.find('input[aria-label="Name of the page set"]').setValue('The ports')
    await wrapper.find('.naming').trigger('submit')
    expect(wrapper.findComponent(PagesWord).emitted('save')![0]!.slice(0, 2)).toEqual([
      'The ports',
      { include: [{ match: 'page', path: '/ports/a' }] },
    ])
  })
  it('adds and removes places, and leaves no empty list behind', async () => {
    const { wrapper, state } = edit(PagesWord, { include: [{ match: 'all' }] } as Record<string, unknown>, {
      known: known('/', '/book'),
      on: ['/', '/book'],
      unplaced: ['/book'],
      fresh: ['/ports/a'],
      sets: [],
      findings: [],
    })
    expect(wrapper.text()).toContain('2 of 2 known pages carry it.')
    await press(wrapper, 'Leave a place out')
    expect(state.value).toEqual({ include: [{ match: 'all' }], exclude: [{ match: 'page', path: '/' }] })
    await wrapper.find('[data-list=exclude] input[aria-label="Path 1"]').setValue('/book')
    expect(state.value).toEqual({ include: [{ match: 'all' }], exclude: [{ match: 'page', path: '/book' }] })
    await wrapper
      .find('[data-list=exclude]')
      .findAll('button')
      .find((b) => b.attributes('title') === 'Remove')!
      .trigger('click')
    expect(state.value).toEqual({ include: [{ match: 'all' }] })
  })
})

describe('schedule', () => {
  it('offers the common lengths from now on the wall clock, and goes back to no time at all', async () => {
    const { wrapper, state } = edit(ScheduleWord, {} as Record<string, unknown>, {
      zone: 'Europe/London',
      now: '2026-10-24T12:00',
      times: [],
    })
    expect(wrapper.text()).toContain('until you unpublish it')
    await press(wrapper, 'Until Monday noon')
    expect(state.value).toEqual({ windows: [{ until: '2026-10-26T12:00' }] })
    await press(wrapper, 'Until tonight')
    expect(state.value).toEqual({ windows: [{ until: '2026-10-25T00:00' }] })
    await press(wrapper, 'For a week')
    expect(state.value).toEqual({ windows: [{ from: '2026-10-24T12:00', until: '2026-10-31T12:00' }] })
    await press(wrapper, 'Add another time')
    expect((state.value.windows as unknown[]).length).toBe(2)
    await press(wrapper, 'Remove time 2')
    await press(wrapper, 'Remove time 1')
    expect(state.value).toEqual({})
  })
})

describe('repeats', () => {
  it('read back what the rule says, and leave out one of the next times', async () => {
    const times = {
      words: 'every Friday 12:00 to 18:00, from 27 Nov',
      next: [
        {
          from: '2026-11-27T12:00',
          until: '2026-11-27T18:00',
          clock: 'The clock goes back within it: it lasts 60 minutes more.',
        },
      ],
    }
    const { wrapper, state } = edit(
      RepeatEditor,
      { from: '2026-11-27T12:00', until: '2026-11-27T18:00', rule: 'FREQ=WEEKLY;BYDAY=FR' } as Record<string, unknown>,
      { n: 1, times },
    )
    expect(wrapper.text()).toContain('every Friday 12:00 to 18:00')
    expect(wrapper.text()).toContain('The clock goes back within it')
    await press(wrapper, 'Leave out Fri, 27 Nov 2026 12:00')
    expect(state.value.except).toEqual(['2026-11-27T12:00'])
  })
})

describe('audience', () => {
  const facts = [
    {
      name: 'visits.number',
      kind: 'number',
      label: 'the visit number',
      means: 'Which visit this is.',
      example: 'Greet people again.',
      limits: 'This browser alone remembers it.',
      room: 'Visits',
      unit: 'visit',
      min: 0,
      tests: ['gte', 'eq', 'set'],
    },
    {
      name: 'referrer.class',
      kind: 'text',
      label: 'where the visitor comes from',
      room: 'Coming from',
      min: 0,
      choices: [{ value: 'search', label: 'a search' }],
      tests: ['eq', 'in'],
    },
  ]
  it('grows by wishes and is worked on part by part, with what each answers', async () => {
    vi.spyOn(api, 'facts').mockResolvedValue({ facts, examples: [] } as never)
    const account = {
      id: 'a',
      shows: false,
      steps: [
        {
          gate: 'audience',
          rule: 'A1',
          passed: false,
          why: '',
          parts: [
            {
              pointer: '/all/0',
              depth: 1,
              answer: 'false',
              why: 'The visit number is 1; it needs to be at least 2.',
            },
          ],
        },
      ],
    }
    const holder = reactive({ audience: undefined as unknown })
    const wrapper = mount(
      defineComponent(
        () => () =>
          h(AudienceWord as never, {
            modelValue: holder.audience,
            'onUpdate:modelValue': (v: unknown) => (holder.audience = v),
            account,
            saved: ['regulars'],
            notices: [],
          }),
      ),
      { global: { config: { warnHandler: () => {} } }, attachTo: document.body },
    )
    await flushPromises()
    expect(wrapper.text()).toContain('It is for everyone.')
    await press(wrapper, 'have been here before')
    await press(wrapper, 'come from a search')
    expect(holder.audience).toEqual({
      all: [
        { fact: 'visits.number', is: 'gte', value: 2 },
        { fact: 'referrer.class', is: 'eq', value: 'search' },
      ],
    })
    expect(wrapper.text()).toContain('no does not hold at the viewpoint: The visit number is 1'.replace('no ', 'no'))
    expect(wrapper.text()).not.toContain('Which visit this is.')
    await press(wrapper, 'What it means: the visit number')
    expect(wrapper.text()).toContain(
      'Which visit this is. For example: Greet people again. This browser alone remembers it.',
    )
    await press(wrapper, 'Set this condition aside')
    expect((holder.audience as { all: { off?: boolean }[] }).all[0]!.off).toBe(true)
    await wrapper.findAll('.handle')[1]!.trigger('keydown', { key: 'ArrowUp' })
    expect((holder.audience as { all: { fact: string }[] }).all.map((p) => p.fact)).toEqual([
      'referrer.class',
      'visits.number',
    ])
    await wrapper.findAll('.handle')[0]!.trigger('dragstart')
    await wrapper.findAll('.gap')[2]!.trigger('drop')
    expect((holder.audience as { all: { fact: string }[] }).all.map((p) => p.fact)).toEqual([
      'visits.number',
      'referrer.class',
    ])
    await press(wrapper, 'Duplicate this condition')
    await press(wrapper, 'Add a group')
    expect((holder.audience as { all: unknown[] }).all).toHaveLength(4)
    await press(wrapper, 'Save this group as an audience')
    await wrapper.find('input[aria-label="Name of the audience"]').setValue('Seekers')
    await wrapper.find('.naming').trigger('submit')
    expect(wrapper.findComponent(AudienceWord).emitted('save')![0]![0]).toBe('Seekers')
    await press(wrapper, 'Show it to everyone')
    expect(holder.audience).toBeUndefined()
  })
})

describe('spots', () => {
  it(
    'are tried in their order; the one for every page comes last, and what one is for can be taken ' + 'off again',
    async () => {
      const ports = { include: [{ match: 'section', path: '/ports' }], exclude: [{ match: 'page', path: '/ports/a' }] }
      const { wrapper, state } = edit(
        SlotWord,
        {
          slot: 'inline',
          spot: { selector: 'h1' },
          spots: [{ selector: '#port', where: 'first', pages: ports }],
        } as Record<string, unknown>,
        { known: known('/', '/ports', '/ports/a'), sets: ['all ports'] },
      )
      expect(wrapper.text()).toContain('But not on the page /ports/a.')
      const selects = () => wrapper.findAllComponents({ name: 'ElSelect' })
      const pages = (i: number) => selects().filter((s) => s.props('multiple'))[i]!
      pages(0).vm.$emit('change', ['{"match":"set","name":"all ports"}'])
      expect(state.value.spots).toEqual([
        {
          selector: '#port',
          where: 'first',
          pages: { include: [{ match: 'set', name: 'all ports' }], exclude: ports.exclude },
        },
      ])
      pages(1).vm.$emit('change', ['{"match":"page","path":"/"}'])
      expect(state.value.spot).toBeUndefined()
      expect((state.value.spots as unknown[]).length).toBe(2)
      await press(wrapper, 'Remove spot 1')
      pages(0).vm.$emit('change', [])
      expect(state.value).toEqual({ slot: 'inline', spot: { selector: 'h1', pages: undefined } })
      await press(wrapper, 'Add one for other pages')
      expect(wrapper.findComponent(SlotWord).emitted('point')).toEqual([[true]])
    },
  )
})

describe('instruments', () => {
  it('an order line reads as one sentence, whose words are controls where it can be edited', async () => {
    const line = [{ text: 'Show this ' }, { text: 'bar', control: 'level' as const }, { text: '.' }]
    expect(mount(OrderLine, { props: { line } }).find('[role=button]').exists()).toBe(false)
    const w = mount(OrderLine, { props: { line, editable: true } })
    expect(w.text()).toBe('Show this bar.')
    await w.find('[role=button]').trigger('click')
    await w.find('[role=button]').trigger('keydown', { key: 'Enter' })
    expect(w.emitted('change')!.map((e) => e[0])).toEqual(['level', 'level'])
  })
  it('gates say in words what their signs say', () => {
    const steps = [
      { gate: 'state', rule: 'G2', passed: true, why: 'It is published.' },
      { gate: 'pages', rule: 'P1', passed: false, why: 'It leaves out the page /book.' },
    ]
    const w = mount(Gates, { props: { account: { id: 'a', shows: false, steps } as never } })
    expect(w.findAll('li').map((l) => l.text().replace(/\s+/g, ' '))).toEqual([
      'State✓passesIt is published. G2',
      'Page✕stops hereIt leaves out the page /book. P1',
    ])
  })
  it.each(['draft', 'scheduled', 'live', 'paused', 'ended'] as const)(
    'the word of the flag stands beside it: %s',
    (flag) => {
      expect(mount(Halyard, { props: { flag } }).text().toLowerCase()).toContain(flag)
    },
  )
})
