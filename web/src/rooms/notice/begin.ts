import type { Router } from 'vue-router'
import { api, type NewNotice } from '../../api/client'
import { attempt } from '../../instruments/attempts'

/** Notices begun in this window that nobody has changed yet, by site and id. */
const untouched = new Set<string>()

/** Whether a notice was only begun, and left as it was: nobody would miss it. Asked once. */
export const wasOnlyBegun = (site: string, id: string): boolean => untouched.delete(`${site}/${id}`)

/** Begins a bar, another kind, or what a starting point says, and opens its room. */
export async function beginNotice(
  router: Router,
  site: string,
  starting?: string,
  kind?: NewNotice['kind'],
  document?: string,
): Promise<void> {
  await attempt(async () => {
    const made = await api.newNotice(site, { starting, kind, document })
    if (!starting && !document && kind !== 'consent') untouched.add(`${site}/${made.card.id}`)
    await router.push({
      name: 'notice',
      params: { site, notice: made.card.id },
      query: router.currentRoute.value.query,
    })
  })
}
