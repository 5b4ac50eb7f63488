// What the parts of the Consent room share: what is set up, what was found, and
// the keeping of changes.
import { useTimeoutPoll } from '@vueuse/core'
import { computed, inject, provide, ref, watch, type InjectionKey } from 'vue'
import { api, type ConsentRoom, type ConsentSetup, type Finding, type Operation } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'
import { useViewpoint } from '../../instruments/viewpoint'
import { useSite } from '../../state/sites'
import { patched } from '../notice/patch'

function state() {
  const { refresh } = useViewpoint()
  const { site, detail, open, load: readSite, change } = useSite()
  const { error, busy, attempt } = useAttempts()
  const room = ref<ConsentRoom>()
  const setup = computed<ConsentSetup>(() => detail.value?.site.consent ?? {})
  const languages = computed(() => {
    const s = detail.value?.site
    return s ? [s.language, ...(s.languages ?? []).filter((l) => l !== s.language)] : []
  })

  async function load(read: () => Promise<void> = readSite) {
    const [r] = await Promise.all([api.consent(site.value), read()])
    room.value = r
  }

  /** Keeps a change of what is set up. */
  const save = (next: ConsentSetup | (() => ConsentSetup), done = 'Kept.') =>
    attempt(
      'save',
      async () => {
        await change(() => ({ consent: typeof next === 'function' ? next() : next }))
        room.value = await api.consent(site.value)
        void refresh()
      },
      done,
    )

  /** Carries out what a finding offers: a change of the site, or of a notice's draft. */
  async function applyFix(f: Finding, patch: Operation[]) {
    const notice = f.notices[0]
    if (!notice) return save(() => patched({ consent: setup.value }, patch).consent)
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
  const looking = useTimeoutPoll(
    async () => void (room.value = await api.consent(site.value).catch(() => room.value)),
    700,
    { immediate: false },
  )
  watch(
    () => !!room.value?.progress,
    (inspecting) => {
      if (inspecting) return looking.resume()
      looking.pause()
      void refresh()
    },
  )
  void attempt('open', () => load(open))
  return { site, room, detail, setup, languages, error, busy, load, attempt, save, applyFix }
}

type State = ReturnType<typeof state>
const key: InjectionKey<State> = Symbol('consent')

/** Made by the room itself. */
export function provideConsent(): State {
  const s = state()
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
