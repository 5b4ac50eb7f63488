// What was written in rooms that were left, and is not saved yet.
import { defineStore } from 'pinia'
import { markRaw } from 'vue'

export interface Unsaved {
  text: string
  /** Done once saving it was last tried. */
  tried: Promise<unknown>
}

/** By who wrote it, the site, and the notice or document that it is of: nobody else is given it. */
export const useUnsaved = defineStore('unsaved', () => {
  const left = markRaw(new Map<string, Unsaved>())
  addEventListener('beforeunload', (e) => left.size && e.preventDefault())
  return {
    key: (who: string | undefined, site: string, what: 'notice' | 'document', id: string) =>
      JSON.stringify([who, site, what, id]),
    left,
  }
})
