// Taking a notice off one page and putting it on one, with a way back: the same from
// its own room, the Pages room and the Library.
import { api, type NoticeDetail } from '../../api/client'
import { tell } from '../../instruments/tell'

/** How many known pages, in words. */
export const knownPages = (n: number) => (n === 1 ? '1 known page' : `${n} known pages`)

/** Where a notice still is once it is off a page. */
export const stillOn = (n: number) => (n ? `still on ${knownPages(n)}` : 'on no other known page')

export interface Change {
  /** Of when it is changed: where the person goes meanwhile does not matter to the way back. */
  site: string
  id: string
  revision: number
  to: { on: string } | { off: string }
  said: (d: NoticeDetail) => string
  /** What shows the notice, read again after both. */
  after: () => Promise<unknown>
  /** Before the way back: what is not saved yet; the revision that is then. */
  before?: () => Promise<number | undefined>
}

/** Changes a notice's pages by one, and says so. Throws where that is refused. */
export async function place({ site, id, revision, to, said, after, before }: Change): Promise<void> {
  const done = await api.place(site, id, { revision, ...to })
  await after()
  tell(said(done.detail), 'success', async () => {
    const now = (await before?.()) ?? done.detail.card.revision
    await api.place(site, id, { revision: now, put: done.was })
    await after()
  })
}
