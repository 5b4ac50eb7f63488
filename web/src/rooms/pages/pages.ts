// What the parts of the Pages room share: what each known page carries, and the notice that is being placed.
import { computed, inject, provide, ref, shallowRef, watch, type InjectionKey } from 'vue'
import { useRoute } from 'vue-router'
import { api, type Carried, type NoticeDetail } from '../../api/client'
import { attempt } from '../../instruments/attempts'
import { latest } from '../../instruments/latest'
import { tell } from '../../instruments/tell'
import { useViewpoint } from '../../instruments/viewpoint'
import { toggled } from '../notice/words/places'

export const figure = (n: number) => n.toLocaleString('en-GB')

function state() {
  const route = useRoute()
  const { site, view, moment, page, named } = useViewpoint()
  const carried = shallowRef<Carried>({ pages: [], notices: [] })
  // The page looked from does not change what the others carry, but what is published does.
  watch(
    [() => moment.value.at, () => moment.value.zone, view],
    latest(
      () => api.carried(site.value, { ...moment.value, page: undefined }),
      (c) => (carried.value = c),
    ),
    { immediate: true },
  )

  /** The notice being placed: pressing a page takes it in or leaves it out, in its draft. */
  const placing = ref('')
  const placed = ref<NoticeDetail>()
  watch(
    placing,
    latest(
      async () => (placing.value ? await api.notice(site.value, placing.value, {}) : undefined),
      (d) => (placed.value = d),
    ),
  )
  const taken = computed(() => new Set(placed.value?.onPages ?? []))
  async function put(notice: NoticeDetail['notice']) {
    const at = placed.value!
    placed.value = await api.changeNotice(site.value, at.card.id, {}, { revision: at.card.revision, notice })
  }
  const take = (path: string, match: 'page' | 'section') =>
    attempt(async () => {
      if (!placed.value) return
      const before = placed.value.notice
      await put({ ...before, pages: toggled(before.pages ?? {}, taken.value.has(path), path, match) })
      const what = `${path}${match === 'section' ? ' and all below' : ''}`
      tell(`${what}: ${taken.value.has(path) ? 'taken in' : 'left out'}, in the draft.`, 'success', () => put(before))
    })

  return {
    site,
    pages: computed(() => carried.value.pages),
    here: computed(() => view.value?.page.path ?? (page.value || '/')),
    /** A notice by its id, as far as anything here names it. */
    card: (id: string) => named(id) ?? carried.value.notices.find((n) => n.id === id),
    toNotice: (id: string) => ({ name: 'notice', params: { site: site.value, notice: id }, query: route.query }),
    placing,
    placed,
    taken,
    take,
  }
}

type State = ReturnType<typeof state>
const key: InjectionKey<State> = Symbol('pages')

/** Made by the room itself. */
export function providePages(): State {
  const s = state()
  provide(key, s)
  return s
}

export const usePages = () => inject(key) as State
