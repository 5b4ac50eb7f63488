import type { Tally } from '../../api/client'

const figures = new Intl.NumberFormat('en')

/** A count, with commas between thousands. */
export const figure = (n: number): string => figures.format(n)

/** A share from 0 to 1 in hundredths, with one place. */
export const percent = (share: number): string => `${(100 * share).toFixed(1)} %`

/** What can be counted beside how often a notice was seen, with what it is called. */
export const acts = [
  { act: 'clicked', says: 'followed' },
  { act: 'sent', says: 'sent' },
  { act: 'answered', says: 'answered' },
  { act: 'closed', says: 'closed' },
  { act: 'reached', says: 'reached' },
  { act: 'left', says: 'left the tab' },
  { act: 'back', says: 'came back' },
] as const satisfies { act: keyof Tally; says: string }[]

/** The one figure that matters of a notice: the share of those who did what it leads to, or how often it was seen. */
export function headline(t: Tally): string {
  for (const { act, says } of acts) {
    const share = act !== 'closed' && t.shares?.[act]
    if (share) return `${percent(share.of)} ${says}`
  }
  return `seen ${t.seen === 1 ? 'once' : `${figure(t.seen)} times`}`
}

/** The acts that happened at all. */
export const happened = (list: Tally[]) => acts.filter(({ act }) => list.some((t) => t[act] > 0))
