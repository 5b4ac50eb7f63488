// Which of the known pages are wanted.
import type { Carried } from '../../api/client'

type Page = Carried['pages'][number]

/** Each is "" for any. */
export interface PageFilter {
  text: string
  type: string
  tag: string
  language: string
  load: string
}

export const anyPage = (): PageFilter => ({ text: '', type: '', tag: '', language: '', load: '' })

/** What pages carry, to ask for. */
export const loads = [
  { value: 'none', label: 'carry nothing', is: (p: Page) => p.shows.length === 0 },
  {
    value: 'never',
    label: 'carry nothing for 30 days',
    is: (p: Page) => p.soon.length === 0 && p.shows.length === 0,
  },
  { value: 'much', label: 'carry too much', is: (p: Page) => p.tooMuch },
]

export const wanted = (f: PageFilter) => (p: Page) =>
  `${p.path} ${p.title}`.toLowerCase().includes(f.text.toLowerCase()) &&
  (!f.type || p.type === f.type) &&
  (!f.tag || p.tags.includes(f.tag)) &&
  (!f.language || p.language === f.language) &&
  (loads.find((l) => l.value === f.load)?.is(p) ?? true)
