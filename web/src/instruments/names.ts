// The titles of a site's notices, to choose one from: all of a small site, those
// that hold what is typed of a large one.
import { computed, ref, shallowRef, type InjectionKey, type Ref } from 'vue'
import { api, type NoticeName } from '../api/client'
import { latest } from './latest'

/** How an editor within asks for notices whose titles hold a text. */
export const findNames: InjectionKey<(text: string) => void> = Symbol('find names')

export function useNames(site: Ref<string>) {
  const names = shallowRef<NoticeName[]>([])
  const all = ref(0)
  const wanted = ref('')
  const ask = latest(
    () => api.names(site.value, wanted.value),
    (list) => {
      names.value = list.names
      all.value = Math.max(all.value, list.found)
    },
  )
  void ask()
  return {
    names,
    /** Whether there are more than are listed at once. */
    remote: computed(() => all.value > names.value.length || wanted.value !== ''),
    find: (text: string) => {
      wanted.value = text
      void ask()
    },
    ask,
  }
}
