// What the parts of the Consent room share: what is set up, what was found, and
// the keeping of changes.
import { computed, inject, onScopeDispose, provide, ref, watch, type InjectionKey, type Ref } from 'vue'
import {
  api,
  CallError,
  type ConsentRoom,
  type ConsentSetup,
  type Finding,
  type Operation,
  type SiteDetail,
} from '../../api/client'
import { tell } from '../../instruments/tell'
import { useViewpoint } from '../../instruments/viewpoint'
import { patched } from '../notice/patch'

function state(site: Ref<string>, refresh: () => Promise<unknown>) {
  const room = ref<ConsentRoom>()
  const detail = ref<SiteDetail>()
  const error = ref('')
  const busy = ref('')
  const setup = computed<ConsentSetup>(() => detail.value?.site.consent ?? {})
  const languages = computed(() => {
    const s = detail.value?.site
    return s ? [s.language, ...(s.languages ?? []).filter((l) => l !== s.language)] : []
  })

  async function load() {
    const key = site.value
    const [r, d] = await Promise.all([api.consent(key), api.site(key)])
    if (key !== site.value) return
    room.value = r
    detail.value = d
  }

  /** Does something that may be refused; whether it was done. */
  async function attempt(what: string, work: () => Promise<unknown>, done = ''): Promise<boolean> {
    busy.value = what
    error.value = ''
    try {
      await work()
      if (done) tell(done)
      return true
    } catch (e) {
      const p = (e as CallError).problem
      error.value = p?.revision
        ? 'Someone else changed the site meanwhile. Reload to see it; what you wrote stands here until then.'
        : (e as CallError).message
      return false
    } finally {
      busy.value = ''
    }
  }

  /** Keeps a change of what is set up. */
  const save = (next: ConsentSetup, done = 'Kept.') =>
    attempt(
      'save',
      async () => {
        const d = detail.value!
        detail.value = await api.changeSite(site.value, { revision: d.revision, site: { ...d.site, consent: next } })
        room.value = await api.consent(site.value)
        void refresh()
      },
      done,
    )

  /** Carries out what a finding offers: a change of the site, or of a notice's draft. */
  async function applyFix(f: Finding, patch: Operation[]) {
    const notice = f.notices[0]
    if (!notice) {
      try {
        return save(patched({ consent: setup.value }, patch).consent)
      } catch (e) {
        error.value = (e as CallError).message
        return
      }
    }
    return attempt(
      'fix',
      async () => {
        const d = await api.notice(site.value, notice, {})
        await api.changeNotice(site.value, notice, {}, { revision: d.card.revision, notice: patched(d.notice, patch) })
        await load()
        void refresh()
      },
      'It is in the notice’s draft. Visitors get it once you publish that.',
    )
  }

  // An inspection goes on by itself: it is looked after while it does.
  let timer: ReturnType<typeof setTimeout> | undefined
  watch(
    () => room.value?.progress,
    (p) => {
      clearTimeout(timer)
      if (p)
        timer = setTimeout(
          () =>
            api.consent(site.value).then(
              (r) => (room.value = r),
              () => (room.value = { ...room.value! }),
            ),
          700,
        )
      else void refresh()
    },
  )
  onScopeDispose(() => clearTimeout(timer))
  watch(site, load, { immediate: true })
  return { site, room, detail, setup, languages, error, busy, load, attempt, save, applyFix }
}

type State = ReturnType<typeof state>
const key: InjectionKey<State> = Symbol('consent')

/** Made by the room itself. */
export function provideConsent(): State {
  const { site, refresh } = useViewpoint()
  const s = state(site, refresh)
  provide(key, s)
  return s
}

export const useConsent = () => inject(key) as State

/** The question of the room that a finding belongs to. */
export function questionOf(f: Finding): 'sets' | 'asks' | 'places' {
  if (f.code === 'places-news') return 'places'
  return f.notices.length || ['empty-purpose', 'nothing-asks'].includes(f.code) ? 'asks' : 'sets'
}

/** How long something is kept, in words. */
export function lasting(lasts: string | undefined): string {
  if (!lasts) return ''
  if (lasts === 'session') return 'this visit'
  if (lasts === 'ever') return 'until removed'
  const m = /^P(?:(\d+)Y)?(?:(\d+)M)?(?:(\d+)W)?(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+)S)?)?$/.exec(lasts)
  if (!m) return lasts
  const units = ['year', 'month', 'week', 'day', 'hour', 'minute', 'second']
  return units
    .map((u, i) => (m[i + 1] ? `${m[i + 1]} ${u}${m[i + 1] === '1' ? '' : 's'}` : ''))
    .filter(Boolean)
    .join(' and ')
}

export const kinds = { cookie: 'Cookie', storage: 'Storage key', frame: 'Frame', request: 'Request' } as const
export const rules = {
  'opt-in': 'Opt-in: nothing before the visitor agrees',
  'opt-out': 'Opt-out: until the visitor objects',
  notice: 'Notice only: the visitor is told',
  nothing: 'Nothing is asked or told',
} as const
