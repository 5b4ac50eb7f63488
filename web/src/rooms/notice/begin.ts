import type { Router } from 'vue-router'
import { api, CallError, type NewNotice } from '../../api/client'
import { tell } from '../../instruments/tell'

/** Begins a bar, another kind, or what a starting point says, and opens its room. */
export async function beginNotice(
  router: Router,
  site: string,
  starting?: string,
  kind?: NewNotice['kind'],
  document?: string,
): Promise<void> {
  try {
    const made = await api.newNotice(site, { starting, kind, document })
    await router.push({ name: 'notice', params: { site, notice: made.card.id }, query: router.currentRoute.value.query })
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}
