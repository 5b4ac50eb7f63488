// What can be done with a notice as a whole, and what is said once it is done.
import { useRoute, useRouter } from 'vue-router'
import { api, type Act, type NoticeDetail } from '../../api/client'
import { attempt } from '../../instruments/attempts'
import { nameOf } from '../../instruments/languages'
import { tell } from '../../instruments/tell'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { knownPages, place, stillOn } from './placing'
import { useNotice } from './room'

const pages = (n: number) => (n === 1 ? '1 page' : `${n} pages`)

/** What is said of a notice that was published. */
function published(d: NoticeDetail): string {
  if (d.card.flag === 'scheduled') return 'Published. It goes up at its time.'
  const whom = d.line.find((w) => w.control === 'audience')?.text
  return `Published. It is up on ${pages(d.onPages.length)}${whom === 'everyone' ? '' : `, for ${whom}`}.`
}

/** The commands of the room: those of its parts find it by themselves. */
export function useCommands(room = useNotice()) {
  const route = useRoute()
  const router = useRouter()
  const { view, moment, refresh } = useViewpoint()
  const { id, site, detail, notice, language, order, act, save, why, loadAll, handed, takingOff } = room
  /** The site of this notice; the viewpoint's may be another when the room is left. */
  const mine = site.value
  const refused = () => tell(why.value, 'error')

  async function command(what: Act, done: string, which?: Parameters<typeof act>[1]) {
    if (!(await act(what, which))) return refused()
    tell(done)
  }
  async function publish() {
    order.value?.shut()
    if (!(await act('publish'))) return refused()
    tell(published(detail.value!))
  }
  async function remove() {
    const title = notice.value?.title ?? id
    if (!(await act('delete'))) return refused()
    await router.push({ name: 'now', params: { site: mine }, query: route.query })
    tell(`“${title}” is deleted.`, 'success', async () => {
      await api.act(mine, id, 'undelete', {}, { revision: 0 })
      await refresh()
    })
  }
  async function takeOffPage() {
    if (!(await save()) || !detail.value || !view.value) return refused()
    const path = view.value.page.path
    const revision = detail.value.card.revision
    await attempt(() =>
      place({
        site: mine,
        id,
        revision,
        to: { off: path },
        said: (d) => `It is off ${path}, and ${stillOn(d.outOn.length)}.`,
        after: async () => {
          takingOff.value = false
          await loadAll()
          void refresh()
        },
        before: async () => {
          await save()
          return detail.value?.card.revision
        },
      }),
    )
  }
  async function takeOffEverywhere() {
    const from = knownPages(detail.value?.outOn.length ?? 0)
    if (!(await act('unpublish'))) return refused()
    takingOff.value = false
    const where = room.standsInPages.value
      ? `It is off everywhere: ${from}. It is in the Library, as a draft.`
      : 'Unpublished. It is a draft again.'
    tell(where, 'success', async () => {
      if (!(await act('republish'))) refused()
    })
  }
  const duplicate = () =>
    attempt(async () => {
      await save()
      const made = await api.newNotice(mine, { copyOf: id })
      await router.push({ name: 'notice', params: { site: mine, notice: made.card.id }, query: route.query })
    }, 'This is the copy.')
  /** Hands a text out: it stands there, and is in the clipboard where the browser lets it. */
  async function hand(name: string, text: string, long: boolean, lacks: string[] = []) {
    await navigator.clipboard?.writeText(text).catch(() => undefined)
    handed.value = { name, text, long, lacks }
  }
  const previewLink = () =>
    attempt(async () => {
      const link = await api.previewLink(mine, id, moment.value)
      await hand('Preview link', link.address, false)
      tell(`The preview link is copied. It works until ${say(link.ends, view.value?.zone ?? 'UTC')}.`)
    })
  const copyPlain = () =>
    attempt(async () => {
      await save()
      const { html, lacks } = await api.plain(mine, id, language.value)
      await hand('Plain HTML', html, true, lacks)
      tell(
        `Copied in ${nameOf(language.value)}, ${new Blob([html]).size} bytes. Paste it where it is to stand;` +
          ' it needs no script.',
      )
    })
  const draftIn = async (tag: string) => {
    if (!(await save()) || !detail.value) return
    const revision = detail.value.card.revision
    await attempt(async () => {
      await api.translate(mine, id, moment.value, { revision, language: tag })
      await loadAll()
    }, 'Drafted. Read it: visitors do not get it before someone has.')
  }
  return {
    command,
    publish,
    remove,
    takeOffPage,
    takeOffEverywhere,
    duplicate,
    previewLink,
    copyPlain,
    draftIn,
  }
}
