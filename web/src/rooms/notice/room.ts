// What the parts of a notice's room share: the draft, the site it is written for, the language that is written in, and
// the parts that others speak to.
import { computed, inject, provide, ref, shallowRef, watch, type InjectionKey } from 'vue'
import { useRoute } from 'vue-router'
import { blocking, type Notice, type Wording } from '../../api/client'
import { tell } from '../../instruments/tell'
import { useViewpoint } from '../../instruments/viewpoint'
import { useSite } from '../../state/sites'
import { useDraft } from './draft'

export type Picture = NonNullable<NonNullable<Notice['content']>['picture']>

/** A text to take away, shown until it is put aside. */
export interface Handed {
  name: string
  text: string
  /** It has many lines. */
  long: boolean
  /** What the notice has that the text leaves out. */
  lacks: string[]
}

function state() {
  const route = useRoute()
  const { view, moment, language: seenIn, refresh } = useViewpoint()
  const { site, detail: siteDetail } = useSite()
  /** The notice that the room was opened for: it is made anew for another. */
  const id = route.params.notice as string

  // The parts that others speak to, once they stand there.
  const stage = shallowRef<{ refresh: () => void; point: () => void }>()
  const order = shallowRef<{ edit: (control: string) => void; shut: () => void }>()
  const blocks = shallowRef<{ choose: (part: string) => void }>()

  const draft = useDraft(site.value, id, moment, (d) => {
    stage.value?.refresh()
    void refresh()
    if (d.removed?.length) tell(`Left out, because a notice may not hold it: ${d.removed.join(', ')}.`, 'warning')
  })
  const { detail, notice, load } = draft

  /** A part of the notice that is always there to be written in. */
  function part<K extends 'look' | 'schedule' | 'content'>(key: K) {
    return computed<NonNullable<Notice[K]>>({
      get: () => (notice.value?.[key] ?? {}) as NonNullable<Notice[K]>,
      set: (v) => notice.value && (notice.value[key] = v as Notice[K]),
    })
  }
  const content = part('content')

  // Languages.
  const languages = computed(() => {
    const s = siteDetail.value?.site
    return s ? [...new Set([s.language, ...(s.languages ?? [])])] : []
  })
  /** The language written in is that of the viewpoint: its own, or the page's. */
  const language = computed(() => {
    const wanted = seenIn.value || (view.value?.page.language ?? '')
    return languages.value.includes(wanted) ? wanted : (languages.value[0] ?? '')
  })
  const wordings = computed<Record<string, Wording>>({
    get: () => content.value.wordings ?? {},
    set: (wordings) => (content.value = { ...content.value, wordings }),
  })
  const wording = computed<Wording>({
    get: () => wordings.value[language.value] ?? {},
    set: (w) => (wordings.value = { ...wordings.value, [language.value]: w }),
  })
  const picture = computed<Picture | undefined>({
    get: () => content.value.picture,
    set: (p) => {
      const next = { ...content.value, picture: p }
      if (!p) delete next.picture
      content.value = next
    },
  })

  /** The stage keeps the token it began with, so that it does not load anew on every save. */
  const token = ref('')
  watch(seenIn, () => (token.value = ''))
  /** Id of the variant on the stage; "" is the notice as it is. */
  const variant = ref('')
  watch([detail, variant], ([d], [, before]) => {
    if (!d) return
    const shown = d.variants.find((v) => v.id === variant.value)
    if (!shown) variant.value = ''
    if (variant.value !== before) token.value = ''
    token.value ||= (shown ?? d).preview
  })

  /** Shows again what the server changed by itself. */
  async function loadAll() {
    await load()
    stage.value?.refresh()
  }

  return {
    ...draft,
    id,
    site,
    siteDetail,
    stage,
    order,
    blocks,
    content,
    look: part('look'),
    schedule: part('schedule'),
    languages,
    language,
    wordings,
    wording,
    picture,
    token,
    variant,
    loadAll,
    countdown: computed(() => content.value.countdown),
    isBlock: computed(() => notice.value?.kind === 'block'),
    /** It can be made of rows: what asks something by itself, stands nowhere or is code cannot. */
    hasRows: computed(() => !/^(consent|disclaimer|code|tab-title)$/.test(notice.value?.kind ?? 'code')),
    isConsent: computed(() => notice.value?.kind === 'consent'),
    isCode: computed(() => notice.value?.kind === 'code'),
    /** It stands in a page of its own, and is not gone when it is taken off one. */
    standsInPages: computed(() => notice.value?.kind === 'block' || notice.value?.kind === 'code'),
    /** What a disclaimer asks for, if it has to be answered. */
    asks: computed(() => {
      const ask = content.value.disclaimer?.ask
      return ask === 'acknowledge' || ask === 'declare' ? ask : undefined
    }),
    /** Where links can lead: pages of the site, and documents by name. */
    known: computed(() => [
      ...(siteDetail.value?.site.documents ?? []).map((d) => `document:${d.id}`),
      ...(siteDetail.value?.pages.map((p) => p.path) ?? []),
    ]),
    /** Visitors have it, or have had it. */
    out: computed(() => !!detail.value && detail.value.card.flag !== 'draft'),
    /** Something waits to be published. */
    pending: computed(() => !!detail.value?.card.hasDraft || detail.value?.card.flag === 'draft'),
    /** The gate that keeps the draft from the stage. */
    blocked: computed(() => detail.value && blocking(detail.value.rehearsal)),
    /** The words of all languages are shown side by side, in place of the stage. */
    sideBySide: ref(false),
    /** The three ways to take it away are shown. */
    takingOff: ref(false),
    handed: ref<Handed>(),
    /** What is pointed at on the stage is one more spot, and not the first. */
    spotIsOneMore: ref(false),
  }
}

type State = ReturnType<typeof state>
const key: InjectionKey<State> = Symbol('notice')

/** Made by the room itself. */
export function provideNotice(): State {
  const s = state()
  provide(key, s)
  return s
}

export const useNotice = () => inject(key) as State
