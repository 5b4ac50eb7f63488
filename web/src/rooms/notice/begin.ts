import type { Router } from 'vue-router'
import { api, CallError } from '../../api/client'
import { tell } from '../../instruments/tell'

/** Begins a bar and opens its room, with the words to write selected. */
export async function beginNotice(router: Router, site: string): Promise<void> {
  try {
    const made = await api.newNotice(site, {})
    await router.push({ name: 'notice', params: { site, notice: made.card.id }, query: router.currentRoute.value.query })
  } catch (e) {
    tell((e as CallError).message, 'error')
  }
}
