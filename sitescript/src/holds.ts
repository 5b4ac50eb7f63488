// What a page may be kept from, by the list that the server sends (rules H1 and H3). Part of the line in the page that
// holds back, so it is short.
import type { Holds } from './shapes'

/** What something is, as a page sees it. */
export type What = 'script' | 'frame' | 'image' | 'request' | 'cookie' | 'storage'

/** Whether that has a name: a cookie, or a key of a storage. */
export const isName = (what: What) => /^(c|st)/.test(what)

/**
 * The purpose that has to be agreed to before something may go ahead: that of the row that fits most exactly,
 * `?` where none fits what another host has, '' where nothing holds it. `subject` is an absolute address, or the
 * name of a cookie or key.
 */
export function purposeOf({ rows, own }: Holds, what: What, subject: string): string {
  let isOwn = isName(what)
  if (/^mastflag\./.test(subject)) return '' // the program's own
  if (!isOwn) {
    const u = new URL(subject)
    if (!/^(http|ws)/.test(u.protocol)) return ''
    subject = u.hostname + u.pathname + u.search
    isOwn = own.includes(u.hostname)
  }
  const row = rows.find(
    ([kind, form]) => (kind === what || (kind === 'request' && !isName(what))) && RegExp(form).test(subject),
  )
  return row ? row[2] : isOwn ? '' : '?'
}
