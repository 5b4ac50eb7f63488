// Sites as they were last read: the one place where rooms find their site and change it.
import { defineStore } from 'pinia'
import { computed, shallowReactive } from 'vue'
import { api, CallError, type Site, type SiteDetail } from '../api/client'
import { useViewpoint } from '../instruments/viewpoint'

/** By the site’s key. What is asked for later, or changed meanwhile, is newer than an answer that comes late. */
export const useSites = defineStore('sites', () => {
  const details = shallowReactive(new Map<string, SiteDetail>())
  const asked = new Map<string, number>()
  const turn = (key: string) => {
    const mine = (asked.get(key) ?? 0) + 1
    asked.set(key, mine)
    return mine
  }

  function take(key: string, d: SiteDetail) {
    turn(key)
    details.set(key, d)
  }
  async function load(key: string) {
    const mine = turn(key)
    const d = await api.site(key)
    if (asked.get(key) === mine) details.set(key, d)
  }
  /** Reads the site for a room that is being opened: nothing is known of it until then. */
  function open(key: string) {
    details.delete(key)
    return load(key)
  }
  /** Changes parts of a site that was read. Throws where that is refused; what is kept here stays then. */
  async function change(key: string, part: (s: Site) => Partial<Site>) {
    const d = details.get(key)
    if (!d) throw new CallError()
    try {
      take(key, await api.changeSite(key, { revision: d.revision, site: { ...d.site, ...part(d.site) } }))
    } catch (e) {
      throw stale(e)
    }
  }
  return { details, take, load, open, change }
})

/** A refusal because someone else was faster says what can be done about it. */
function stale(e: unknown): unknown {
  if (!(e instanceof CallError) || !e.problem?.revision) return e
  const detail = 'Someone else changed the site meanwhile. Reload to see it; what you wrote stands here until then.'
  return new CallError({ ...e.problem, detail })
}

/** The site of the room: its key, what is known of it once it was read, and the ways to change that. */
export function useSite() {
  const sites = useSites()
  const { site } = useViewpoint()
  const detail = computed(() => sites.details.get(site.value))
  return {
    site,
    detail,
    /** The same, for parts of a room that stand there once it was read. */
    loaded: computed(() => detail.value!),
    open: () => sites.open(site.value),
    load: () => sites.load(site.value),
    take: (d: SiteDetail) => sites.take(site.value, d),
    change: (part: (s: Site) => Partial<Site>) => sites.change(site.value, part),
    /** Does what answers with the site as it then is. */
    through: async (work: Promise<SiteDetail>) => {
      try {
        sites.take(site.value, await work)
      } catch (e) {
        throw stale(e)
      }
    },
  }
}
