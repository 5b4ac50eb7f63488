// The document being written: answers, titles and sections, kept in step with the
// server, which saves every change and answers with what follows from it.
import { useDebounceFn, useEventListener, useTimeoutFn } from '@vueuse/core'
import { computed, onScopeDispose, reactive, ref, shallowRef, type Ref } from 'vue'
import { api, type DocumentDetail } from '../../api/client'
import { problemOf, reason } from '../../instruments/attempts'
import { me } from '../../instruments/me'
import { openRooms } from '../../instruments/saving'
import { useUnsaved } from '../../state/unsaved'
import { clone } from '../../instruments/clone'

/** How long after the last key a change is saved, and after which it is tried again where that failed, ms. */
const pause = 400
const retryAfter = 3000

/** Makes a clause a sentence. */
const sentence = (s: string) => `${s.charAt(0).toUpperCase()}${s.slice(1)}.`

type Own = Record<string, Record<string, string>>

/** The document of a site in a language, for as long as its room is open. */
export function useDocument(site: string, id: string, language: Ref<string>) {
  const who = me.value?.person.email
  const { left, key: keyOf } = useUnsaved()
  const key = keyOf(who, site, 'document', id)
  const detail = shallowRef<DocumentDetail>()
  /** What stands in the fields; by question, and by section and language. */
  const answers = reactive<Record<string, string>>({})
  const own = reactive<Own>({})
  const titles = reactive<Record<string, string>>({})
  const error = ref('')
  /** Someone else changed it: nothing of mine is saved until one of both is chosen. */
  const stale = ref(false)
  const missing = ref(false)
  /** What was wrong with an answer, by question. */
  const faults = ref<Record<string, string>>({})
  const saving = ref(false)
  /** The room was left: what could not be saved is given back when it is opened again. */
  let away = false
  let mark = ''
  let kept = ''
  const read: { section: string; language: string }[] = []

  const mine = () => JSON.stringify({ titles, answers, own })
  function take(d: DocumentDetail, text: boolean) {
    detail.value = d
    mark = d.mark
    if (!text) return
    for (const [to, from] of [
      [titles, d.titles],
      [answers, d.answers],
    ] as const) {
      for (const k of Object.keys(to)) delete to[k]
      Object.assign(to, from)
    }
    for (const k of Object.keys(own)) delete own[k]
    Object.assign(own, clone(d.own ?? {}))
    kept = mine()
  }
  /** Gives back what was written here before and could not be saved. */
  function give() {
    const text = left.get(key)?.text
    if (!text) return
    left.delete(key)
    const was = JSON.parse(text) as { titles: Record<string, string>; answers: Record<string, string>; own: Own }
    Object.assign(titles, was.titles)
    Object.assign(answers, was.answers)
    Object.assign(own, was.own)
    void save()
  }
  let asked = 0
  async function load(text = true) {
    const turn = ++asked
    try {
      const d = await api.document(site, id, language.value)
      if (turn !== asked || away) return
      take(d, text)
      stale.value = false
      error.value = ''
      give()
    } catch (e) {
      if (problemOf(e)?.status === 404) missing.value = true
      error.value = reason(e)
    }
  }

  /** One save at a time: each starts from what the last one made. */
  let turn: Promise<unknown> = Promise.resolve()
  function save(): Promise<boolean> {
    const mine = turn.then(saveNow)
    turn = mine
    return mine
  }
  async function saveNow(): Promise<boolean> {
    retry.stop()
    if (stale.value || me.value?.person.email !== who) return false
    const text = mine()
    if (text === kept && !read.length) return true
    saving.value = true
    asked++ // what was asked before is older
    try {
      const d = await api.changeDocument(site, id, {
        mark,
        ...JSON.parse(text),
        read: [...read],
        language: language.value,
      })
      read.length = 0
      // What the server took out is taken out here too, unless more was written meanwhile.
      const unchanged = mine() === text
      take(d, unchanged)
      if (!unchanged) kept = text
      faults.value = {}
      error.value = ''
      left.delete(key)
      return true
    } catch (e) {
      const problem = problemOf(e)
      if (!problem || problem.status === 401 || problem.status >= 500) retry.start()
      error.value = reason(e)
      stale.value = problem?.status === 409
      faults.value = Object.fromEntries(
        (problem?.faults ?? []).flatMap((f) => {
          const question = /\/answers\/([^/]+)$/.exec(f.pointer)?.[1]
          return question ? [[question, `${sentence(f.what)} ${sentence(f.remedy)}`]] : []
        }),
      )
      return false
    } finally {
      saving.value = false
    }
  }
  const saveSoon = useDebounceFn(save, pause)
  const retry = useTimeoutFn(save, retryAfter, { immediate: false })

  const unsaved = () => mine() !== kept
  useEventListener(window, 'beforeunload', (e) => unsaved() && detail.value && e.preventDefault())
  openRooms.add(save)
  onScopeDispose(() => {
    away = true
    openRooms.delete(save)
    if (!detail.value || !unsaved() || stale.value) return
    left.set(key, { text: mine(), tried: save() })
  })

  return {
    detail,
    answers,
    own,
    titles,
    error,
    stale,
    missing,
    faults,
    saving: computed(() => saving.value),
    load,
    save,
    saveSoon,
    take: (d: DocumentDetail) => take(d, true),
    mark: () => mark,
    /** A section written by hand was read again, and stays as it is. */
    readAgain(section: string, tag: string) {
      read.push({ section, language: tag })
      return save()
    },
  }
}
