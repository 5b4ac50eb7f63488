// What the parts of Alerts share: what came and goes out, the feeds, and the keeping of changes.
import { computed, inject, provide, ref, type InjectionKey } from 'vue'
import { api, type Alerts, type Feed, type Site } from '../../../api/client'
import { useAttempts } from '../../../instruments/attempts'
import { useViewpoint } from '../../../instruments/viewpoint'
import { useSite } from '../../../state/sites'

function state() {
  const { refresh } = useViewpoint()
  const { site, loaded: detail, change } = useSite()
  const { error, busy, attempt } = useAttempts()
  const alerts = ref<Alerts>()
  void attempt('open', async () => (alerts.value = await api.alerts(site.value)))

  /** Does what answers with the alerts as they then are; whether it was done. */
  async function put(what: string, work: () => Promise<Alerts>, done = '') {
    const kept = await attempt(what, async () => (alerts.value = await work()), done)
    if (kept) void refresh()
    return kept
  }
  /** Changes parts of the site that alerts come and go by. */
  const keep = (what: string, part: Partial<Site>, done = 'Kept.') =>
    put(
      what,
      async () => {
        await change(() => part)
        return api.alerts(site.value)
      },
      done,
    )
  return {
    site,
    detail,
    alerts,
    error,
    busy,
    put,
    keep,
    feeds: computed<Feed[]>(() => detail.value.site.feeds ?? []),
    /** The same, for parts that stand there once they came. */
    loaded: computed(() => alerts.value!),
  }
}

type State = ReturnType<typeof state>
const key: InjectionKey<State> = Symbol('alerts')

export function provideAlerts(): State {
  const s = state()
  provide(key, s)
  return s
}

export const useAlerts = () => inject(key) as State
