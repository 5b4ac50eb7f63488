// The viewpoint: this page, at this moment, as this visitor. It lives in the
// address, so that a link reproduces it, and everything shown follows it.
import { storeToRefs } from 'pinia'
import { computed, inject, watch, type InjectionKey, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, type Moment } from '../api/client'
import { useViews } from '../state/views'
import { reason } from './attempts'

/** How much of time the strip shows, days. */
export const spans = [
  { days: 1 / 24, label: 'An hour' },
  { days: 1 / 4, label: '6 hours' },
  { days: 2, label: '2 days' },
  { days: 14, label: '2 weeks' },
  { days: 42, label: '6 weeks' },
  { days: 365, label: 'A year' },
  { days: 730, label: '2 years' },
]

/** The site that a room was opened for; the shell around rooms has none of its own. */
export const ownSite: InjectionKey<Ref<string>> = Symbol('site')

/**
 * Returns the viewpoint with what the core says of it. Every caller shares one, but for the site, which in a room never
 * changes.
 */
export function useViewpoint() {
  const route = useRoute()
  const router = useRouter()
  const state = useViews()
  const { span, listing, trouble } = storeToRefs(state)
  const current = computed(() => (route.params.site as string) ?? '')
  const site: Readonly<Ref<string>> = inject(ownSite, current)
  const view = computed(() => state.views.get(site.value))
  const text = (v: unknown) => (typeof v === 'string' ? v : '')
  const page = computed(() => text(route.query.page))
  const at = computed(() => text(route.query.at))
  const zone = computed(() => text(route.query.zone))
  const visitor = computed(() => text(route.query.visitor))
  const language = computed(() => text(route.query.language))
  const width = computed(() => text(route.query.width))

  /** The viewpoint as calls of the API carry it. */
  const moment = computed<Moment>(() => ({
    page: page.value || undefined,
    at: at.value || undefined,
    zone: zone.value || undefined,
    visitor: visitor.value || undefined,
    language: language.value || undefined,
    width: width.value || undefined,
  }))

  /**
   * Moves the viewpoint; an empty text goes back to the home page, now, the site's zone, a visitor of whom nothing is
   * known, the page's own language, or any width.
   */
  function look(to: {
    page?: string
    at?: string
    zone?: string
    visitor?: string
    language?: string
    width?: string
  }) {
    const query: Record<string, string> = {}
    const next = {
      page: page.value,
      at: at.value,
      zone: zone.value,
      visitor: visitor.value,
      language: language.value,
      width: width.value,
      ...to,
    }
    for (const [k, v] of Object.entries(next)) if (v) query[k] = v
    return router.replace({ query })
  }

  async function refresh() {
    if (!current.value || site.value !== current.value) return
    const mine = ++state.asked
    try {
      const middle = view.value && at.value ? new Date(view.value.at) : undefined
      const { find, most } = listing.value
      const got = await api.view(site.value, {
        ...moment.value,
        ...range(middle),
        find: find || undefined,
        most: most === 100 ? undefined : String(most),
      })
      if (mine !== state.asked) return
      state.views.set(site.value, got)
      trouble.value = ''
    } catch (e) {
      if (mine === state.asked) trouble.value = reason(e)
    }
  }

  /**
   * The ends of the strip: a sixth of it lies before the moment. Without a known moment the server chooses six weeks.
   */
  function range(middle?: Date): { from?: string; until?: string } {
    if (!middle && span.value === 42) return {}
    const m = (middle ?? new Date()).getTime()
    const ms = span.value * 86_400_000
    return { from: new Date(m - ms / 6).toISOString(), until: new Date(m + (ms * 5) / 6).toISOString() }
  }

  /** A notice by its id, as far as the view names it. */
  const named = (id: string) =>
    view.value?.notices.find((n) => n.id === id) ?? view.value?.names.find((n) => n.id === id)

  return { site, page, at, zone, visitor, language, width, moment, look, view, trouble, refresh, span, listing, named }
}

/** Widths of a window to look at, px. */
export const widths = [
  { px: 390, label: 'Phone' },
  { px: 820, label: 'Tablet' },
  { px: 1280, label: 'Desktop' },
]

/** Keeps the view in step with the viewpoint; called once, by the shell. */
export function followViewpoint() {
  const v = useViewpoint()
  const state = useViews()
  watch(v.site, (_, left) => state.leave(left), { flush: 'sync' })
  watch([v.site, v.moment, v.span, v.listing], () => v.refresh(), { immediate: true })
  return v
}
