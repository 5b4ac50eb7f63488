// The draft being written: kept in step with the server, which saves every
// change and answers with what follows from it. Nothing written is lost when
// a save is refused, the connection breaks, or the room is left.
import { useDebounceFn, useEventListener, useTimeoutFn } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { api, type Act, type Moment, type Notice, type NoticeDetail } from '../../api/client'
import { problemOf, reason } from '../../instruments/attempts'
import { me } from '../../instruments/me'
import { openRooms } from '../../instruments/saving'
import { useUnsaved } from '../../state/unsaved'

export type Saving = 'saved' | 'unsaved' | 'saving' | 'offline' | 'refused' | 'stale'

/** How long after the last key a draft is saved, and after which it is tried again where that failed, ms. */
const pause = 300
const retryAfter = 3000

/** The draft of one notice of one site, for as long as its room is open to whoever is signed in. */
export function useDraft(site: string, id: string, moment: Ref<Moment>, onSaved: (d: NoticeDetail) => void) {
  const who = me.value?.person.email
  const { left, key: keyOf } = useUnsaved()
  const key = keyOf(who, site, 'notice', id)
  const detail = shallowRef<NoticeDetail>()
  const notice = ref<Notice>()
  const saving = ref<Saving>('saved')
  /** Why the last save or command was refused, "" if it was not. */
  const why = ref('')
  const missing = ref(false)
  let revision = 0
  let kept = ''
  /** The room was left: what is saved from here on is told to nobody. */
  let away = false
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
    for (const [tag, w] of Object.entries(d.notice.content?.wordings ?? {}))
      if (mine[tag] && w.source) mine[tag].source = w.source
  }

  let asked = 0
  async function load(text = true) {
    const mine = ++asked
    try {
      const d = await api.notice(site, id, moment.value)
      // What was asked later, or saved meanwhile, is newer.
      if (mine !== asked || d.card.revision < revision) return
      take(d, text)
      missing.value = false
      if (text) {
        saving.value = 'saved'
        why.value = ''
      }
    } catch (e) {
      if (mine !== asked) return
      if (problemOf(e)?.status === 404) missing.value = true
      why.value = reason(e)
    }
  }

  /** Opens the draft: after what was written here before is saved, or with it where it could not be. */
  async function begin() {
    await left.get(key)?.tried
    const unsaved = left.get(key)?.text
    left.delete(key)
    await load()
    if (unsaved && notice.value) notice.value = JSON.parse(unsaved)
  }

  /** One save at a time: each starts from the revision that the last one made. */
  let turn: Promise<unknown> = Promise.resolve()
  function save(): Promise<boolean> {
    const mine = turn.then(saveNow)
    turn = mine
    return mine
  }

  async function saveNow(): Promise<boolean> {
    retry.stop()
    if (!notice.value || saving.value === 'stale') return false
    const text = JSON.stringify(notice.value)
    if (text === kept) {
      saving.value = 'saved'
      why.value = ''
      return true
    }
    saving.value = 'saving'
    try {
      const d = await api.changeNotice(site, id, moment.value, { revision, notice: JSON.parse(text) })
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
      if (!away) onSaved(d)
      return true
    } catch (e) {
      const problem = problemOf(e)
      why.value = reason(e)
      if (!problem || problem.status === 401 || problem.status >= 500) {
        saving.value = 'offline'
        if (!away) retry.start()
      } else if (problem.status === 409) {
        overtake()
        overtaken = text
      } else saving.value = 'refused'
      return false
    }
  }

  /** What was written and refused because someone else had changed the notice: the server has it in the history. */
  let overtaken = ''
  /** The revision that it was written from. */
  let overtakenFrom = 0
  function overtake() {
    saving.value = 'stale'
    overtakenFrom = revision
  }
  /** Has all that was written since kept there, too: it is refused like that before it. False where that failed. */
  async function keepOvertaken(): Promise<boolean> {
    for (;;) {
      const text = JSON.stringify(notice.value)
      if (text === overtaken || text === kept) return true
      try {
        await api.changeNotice(site, id, moment.value, { revision: overtakenFrom, notice: JSON.parse(text) })
      } catch (e) {
        if (problemOf(e)?.status !== 409) {
          why.value = reason(e)
          return false
        }
      }
      overtaken = text
    }
  }
  const saveSoon = useDebounceFn(() => !away && save(), pause)
  const retry = useTimeoutFn(save, retryAfter, { immediate: false })

  watch(
    notice,
    () => {
      if (away || JSON.stringify(notice.value) === kept) return
      if (saving.value !== 'stale') saving.value = 'unsaved'
      saveSoon()
    },
    { deep: true },
  )
  void begin()
  openRooms.add(save)
  watch(moment, () => load(false))

  /** Carries out a command on what is saved; false where it was refused. */
  async function act(what: Act, which: { history?: number; variant?: string } = {}): Promise<boolean> {
    if (!(await save())) return false
    try {
      const d = await api.act(site, id, what, moment.value, { revision, ...which })
      if (what !== 'delete') take(d, true)
      why.value = ''
      if (!away) onSaved(d)
      return true
    } catch (e) {
      why.value = reason(e)
      if (problemOf(e)?.status === 409 && problemOf(e)?.revision) overtake()
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

  let settling = false
  /** After someone else's change: theirs instead of mine, or mine on top of theirs. Pressed twice it is done once. */
  async function settle(mine: boolean) {
    if (settling) return
    settling = true
    await (mine ? overwrite() : takeTheirs())
    settling = false
  }

  async function overwrite() {
    const text = JSON.stringify(notice.value)
    saving.value = 'saved'
    await load(false)
    kept = ''
    notice.value = JSON.parse(text)
    await save()
  }

  /** Nothing is taken before theirs is there and mine is kept, to what was typed meanwhile. */
  async function takeTheirs() {
    await load(false)
    if (!detail.value || revision === overtakenFrom || !(await keepOvertaken())) return
    take(detail.value, true)
    saving.value = 'saved'
    why.value = ''
    onSaved(detail.value)
  }

  /**
   * Saves what is written, again and again until it is, or is opened again; what is refused waits for that. Only
   * whoever wrote it saves it.
   */
  function leave() {
    const entry = { text: JSON.stringify(notice.value), tried: Promise.resolve() as Promise<unknown> }
    left.set(key, entry)
    const attempt = async () => {
      if (left.get(key) !== entry) return
      if (me.value?.person.email !== who) return void setTimeout(attempt, retryAfter)
      const saved = await save()
      if (left.get(key) !== entry) return
      // Of what someone else changed meanwhile the text is in the history.
      if (saved || saving.value === 'stale') left.delete(key)
      else if (saving.value === 'offline') setTimeout(() => (entry.tried = attempt()), retryAfter)
    }
    entry.tried = attempt()
  }

  useEventListener(window, 'beforeunload', (e) => {
    if (saving.value !== 'saved') e.preventDefault()
  })
  onScopeDispose(() => {
    away = true
    openRooms.delete(save)
    const unsaved = saving.value === 'saving' || JSON.stringify(notice.value) !== kept
    if (!notice.value || !unsaved) return
    if (saving.value === 'stale') void keepOvertaken()
    else leave()
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
