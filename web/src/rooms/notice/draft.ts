// The draft being written: kept in step with the server, which saves every
// change and answers with what follows from it. Nothing written is lost when
// a save is refused or the connection breaks.
import { useDebounceFn, useEventListener } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { api, CallError, type Act, type Moment, type Notice, type NoticeDetail } from '../../api/client'

export type Saving = 'saved' | 'unsaved' | 'saving' | 'offline' | 'refused' | 'stale'

export function useDraft(site: Ref<string>, id: Ref<string>, moment: Ref<Moment>, onSaved: (d: NoticeDetail) => void) {
  const detail = shallowRef<NoticeDetail>()
  const notice = ref<Notice>()
  const saving = ref<Saving>('saved')
  /** Why the last save or command was refused, "" if it was not. */
  const why = ref('')
  const missing = ref(false)
  let revision = 0
  let kept = ''
  let retry: ReturnType<typeof setTimeout> | undefined
  /** Texts before each change, and those taken back by undo. */
  const before = ref<string[]>([])
  const after = ref<string[]>([])
  /** The change being saved is an undo or a redo. */
  let travelling = false

  function take(d: NoticeDetail, text: boolean) {
    detail.value = d
    revision = d.card.revision
    if (text) {
      kept = JSON.stringify(d.notice)
      notice.value = JSON.parse(kept)
    }
  }

  /** Takes what the server notes of each translation, so that the next save says it again. */
  function takeMarks(d: NoticeDetail) {
    const mine = notice.value?.content?.wordings ?? {}
    for (const [tag, w] of Object.entries(d.notice.content?.wordings ?? {})) if (mine[tag] && w.of) mine[tag].of = w.of
  }

  async function load(text = true) {
    try {
      take(await api.notice(site.value, id.value, moment.value), text)
      missing.value = false
      if (text) {
        saving.value = 'saved'
        why.value = ''
      }
    } catch (e) {
      if ((e as CallError).problem?.status === 404) missing.value = true
      why.value = (e as CallError).message
    }
  }

  /** One save at a time: each starts from the revision that the last one made. */
  let turn: Promise<unknown> = Promise.resolve()
  function save(): Promise<boolean> {
    const mine = turn.then(saveNow)
    turn = mine
    return mine
  }

  async function saveNow(): Promise<boolean> {
    clearTimeout(retry)
    if (!notice.value || saving.value === 'stale') return false
    const text = JSON.stringify(notice.value)
    if (text === kept) {
      saving.value = 'saved'
      why.value = ''
      return true
    }
    saving.value = 'saving'
    const of = id.value
    try {
      const d = await api.changeNotice(site.value, of, moment.value, { revision, notice: JSON.parse(text) })
      if (of !== id.value) return true
      if (!travelling) {
        before.value = [...before.value.slice(-49), kept]
        after.value = []
      }
      kept = text
      const unchanged = JSON.stringify(notice.value) === text
      take(d, false)
      takeMarks(d)
      if (unchanged) kept = JSON.stringify(notice.value)
      if (d.removed?.length && unchanged) {
        kept = JSON.stringify(d.notice)
        notice.value = JSON.parse(kept)
      }
      saving.value = unchanged ? 'saved' : 'unsaved'
      why.value = ''
      onSaved(d)
      return true
    } catch (e) {
      const problem = (e as CallError).problem
      why.value = (e as CallError).message
      if (!problem) {
        saving.value = 'offline'
        retry = setTimeout(save, 3000)
      } else if (problem.status === 409) saving.value = 'stale'
      else if (problem.status === 401) {
        saving.value = 'offline'
        retry = setTimeout(save, 3000)
      } else saving.value = 'refused'
      return false
    }
  }
  const saveSoon = useDebounceFn(save, 300)

  watch(
    notice,
    () => {
      if (JSON.stringify(notice.value) === kept) return
      if (saving.value !== 'stale') saving.value = 'unsaved'
      saveSoon()
    },
    { deep: true },
  )
  watch([site, id], () => load(), { immediate: true })
  watch(moment, () => load(false))

  /** Carries out a command on what is saved; false where it was refused. */
  async function act(what: Act, history?: number): Promise<boolean> {
    if (!(await save())) return false
    try {
      const d = await api.act(site.value, id.value, what, moment.value, { revision, history })
      if (what !== 'delete') take(d, true)
      why.value = ''
      onSaved(d)
      return true
    } catch (e) {
      why.value = (e as CallError).message
      if ((e as CallError).problem?.status === 409 && (e as CallError).problem?.revision) saving.value = 'stale'
      return false
    }
  }

  async function travel(from: Ref<string[]>, to: Ref<string[]>) {
    if (!(await save())) return
    const text = from.value.at(-1)
    if (!text) return
    from.value = from.value.slice(0, -1)
    to.value = [...to.value, kept]
    notice.value = JSON.parse(text)
    travelling = true
    await save()
    travelling = false
  }
  const undo = () => travel(before, after)
  const redo = () => travel(after, before)

  /** After someone else's change: theirs instead of mine, or mine on top of theirs. */
  async function settle(mine: boolean) {
    const text = JSON.stringify(notice.value)
    saving.value = 'saved'
    await load(!mine)
    if (mine) {
      kept = ''
      notice.value = JSON.parse(text)
      await save()
    } else if (detail.value) onSaved(detail.value)
  }

  useEventListener(window, 'beforeunload', (e) => {
    if (saving.value !== 'saved') e.preventDefault()
  })
  onScopeDispose(() => {
    clearTimeout(retry)
    if (saving.value === 'unsaved') void save()
  })

  return {
    detail,
    notice,
    saving,
    why,
    missing,
    load,
    save,
    act,
    undo,
    redo,
    canUndo: computed(() => before.value.length > 0),
    canRedo: computed(() => after.value.length > 0),
    settle,
  }
}
