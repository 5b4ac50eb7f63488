// What is so at the viewpoint of each site, as the core last said it.
import { defineStore } from 'pinia'
import { ref, shallowReactive } from 'vue'
import type { View } from '../api/client'

export const useViews = defineStore('views', () => {
  /** By the site’s key: what is known of one site says nothing about another. */
  const views = shallowReactive(new Map<string, View>())
  /** How many days of time the strip shows. */
  const span = ref(42)
  /** Which notices are listed: those that hold a text, so many at most. */
  const listing = ref({ find: '', most: 100 })
  /** Why the last answer did not come, "" if it did. */
  const trouble = ref('')
  /** Calls that were made: an answer to one that is not the last is late. */
  const asked = ref(0)
  /** Forgets a site that is left. */
  function leave(key: string) {
    views.delete(key)
    listing.value = { find: '', most: 100 }
  }
  return { views, span, listing, trouble, asked, leave }
})
