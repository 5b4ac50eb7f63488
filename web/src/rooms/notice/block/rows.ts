// What a block is made of: rows of columns of parts, and moving parts about.
import type { Part, PartWords, Row, Wording } from '../../../api/client'
import { clone } from '../../../instruments/clone'

export type Kind = Part['kind']

/** The kinds of parts, and what each shows. */
export const kinds: { value: Kind; label: string; means: string }[] = [
  { value: 'heading', label: 'Heading', means: 'A line above the rest.' },
  { value: 'text', label: 'Text', means: 'Words, lists and links.' },
  { value: 'picture', label: 'Picture', means: 'One of the site’s images.' },
  { value: 'links', label: 'Links', means: 'Buttons and links, side by side.' },
  { value: 'countdown', label: 'Countdown', means: 'Time to or since something.' },
  { value: 'documents', label: 'Documents', means: 'Links to privacy notice, terms and the like.' },
  { value: 'contact', label: 'Contact', means: 'Telephone, mail, address, map.' },
  { value: 'video', label: 'Video', means: 'A film: a file, or a frame of another host.' },
  { value: 'hours', label: 'Opening hours', means: 'Days and times.' },
  { value: 'question', label: 'Question', means: 'Answered with one press.' },
  { value: 'field', label: 'Field', means: 'Something to fill in: an address, a number, a choice …' },
  { value: 'send', label: 'Send button', means: 'Sends what was filled in, and says thanks.' },
]
export const kindName = (kind: Kind) => kinds.find((k) => k.value === kind)?.label ?? kind

/** Where a part stands: its row, its column there, and its place in it. */
export interface Place {
  row: number
  column: number
  at: number
}

/** Whether something is to be filled in, with nothing there to send it. */
export const lacksSend = (rows: Row[]) =>
  partsOf(rows).some((p) => p.kind === 'field') && !partsOf(rows).some((p) => p.kind === 'send')

export const partsOf = (rows: Row[]): Part[] => rows.flatMap((r) => r.columns.flatMap((c) => c.parts ?? []))

/** Where the part of an id is. */
export function placeOf(rows: Row[], id: string): Place | undefined {
  for (const [row, r] of rows.entries())
    for (const [column, c] of r.columns.entries()) {
      const at = (c.parts ?? []).findIndex((p) => p.id === id)
      if (at >= 0) return { row, column, at }
    }
  return undefined
}

/** A name for a new part that no other has: text, text-2. */
export function newId(rows: Row[], kind: Kind): string {
  const taken = new Set(partsOf(rows).map((p) => p.id))
  for (let n = 1; ; n++) {
    const id = n === 1 ? kind : `${kind}-${n}`
    if (!taken.has(id)) return id
  }
}

/** A new part of a kind, with what it shows at first. */
export function begun(rows: Row[], kind: Kind, mail: string): Part {
  const id = newId(rows, kind)
  const own: Partial<Record<Kind, Partial<Part>>> = {
    documents: { documents: ['*'] },
    contact: { contact: [{ by: 'mail', value: mail }] },
    hours: { hours: [{ days: [1, 2, 3, 4, 5], from: '09:00', until: '17:00' }] },
    question: { events: [`${id}-yes`, `${id}-no`] },
    video: { video: {} },
    field: { field: { kind: 'email', required: true } },
  }
  return { id, kind, ...own[kind] }
}

/** What a new part says at first. */
export function firstWords(kind: Kind): PartWords {
  if (kind === 'heading') return { heading: 'Heading' }
  if (kind === 'links') return { links: [{ href: '/', label: 'More' }] }
  if (kind === 'question')
    return { heading: 'Was this page useful?', answers: ['Yes', 'No'], thanks: 'Thank you. That helps us.' }
  if (kind === 'field') return { heading: 'E-mail' }
  return {}
}

/** The rows with a part at a place. */
export function put(rows: Row[], part: Part, to: Place): Row[] {
  const out = clone(rows)
  const column = out[to.row]!.columns[to.column]!
  column.parts = [...(column.parts ?? [])]
  column.parts.splice(to.at, 0, part)
  return out
}

/** The rows without a part. */
export function without(rows: Row[], id: string): Row[] {
  const out = clone(rows)
  for (const r of out) for (const c of r.columns) c.parts = (c.parts ?? []).filter((p) => p.id !== id)
  return out
}

/** The rows with a part changed. */
export function changed(rows: Row[], part: Part): Row[] {
  const out = clone(rows)
  for (const r of out) for (const c of r.columns) c.parts = (c.parts ?? []).map((p) => (p.id === part.id ? part : p))
  return out
}

/** The rows with a part moved to a place, as places are once it is taken out. */
export function moved(rows: Row[], id: string, to: Place): Row[] {
  const part = partsOf(rows).find((p) => p.id === id)
  return part ? put(without(rows, id), part, to) : rows
}

export type Way = 'up' | 'down' | 'back' | 'on'

/**
 * Where a part is one step on: up and down in its column and on into the next row, back and on among the columns.
 * Nothing where it ends there.
 */
export function stepped(rows: Row[], id: string, way: Way): Place | undefined {
  const from = placeOf(rows, id)
  if (!from) return undefined
  const length = (row: number, column: number) => rows[row]?.columns[column]?.parts?.length ?? 0
  const { row, column, at } = from
  if (way === 'back')
    return column > 0 ? { row, column: column - 1, at: Math.min(at, length(row, column - 1)) } : undefined
  if (way === 'on')
    return column + 1 < rows[row]!.columns.length
      ? { row, column: column + 1, at: Math.min(at, length(row, column + 1)) }
      : undefined
  const up = way === 'up'
  if (up ? at > 0 : at + 1 < length(row, column)) return { row, column, at: at + (up ? -1 : 1) }
  const next = rows[row + (up ? -1 : 1)]
  if (!next) return undefined
  const into = Math.min(column, next.columns.length - 1)
  return { row: row + (up ? -1 : 1), column: into, at: up ? length(row - 1, into) : 0 }
}

/** The rows with so many columns in one of them: what stood in those taken away goes into the last that stays. */
export function withColumns(rows: Row[], row: number, count: number): Row[] {
  const out = clone(rows)
  const columns = out[row]!.columns
  while (columns.length < count) columns.push({ parts: [] })
  const gone = columns.splice(count).flatMap((c) => c.parts ?? [])
  const last = columns[count - 1]!
  last.parts = [...(last.parts ?? []), ...gone]
  for (const c of columns) if ((c.stacked ?? 0) > count) delete c.stacked
  return out
}

/** The rows with a column one place earlier where columns stand one below the other. */
export function earlier(rows: Row[], row: number, column: number): Row[] {
  const out = clone(rows)
  const columns = out[row]!.columns
  const order = stackOrder(columns)
  const at = order.indexOf(column)
  if (at > 0) order.splice(at - 1, 2, column, order[at - 1]!)
  const written = order.every((c, i) => c === i)
  for (const [i, c] of order.entries()) {
    if (written) delete columns[c]!.stacked
    else columns[c]!.stacked = i + 1
  }
  return out
}

/**
 * The columns of a row in the order in which they stand one below the other: each that says its place has it, the
 * others fill the places left.
 */
export function stackOrder(columns: Row['columns']): number[] {
  const all = columns.map((c, i) => ({ i, place: c.stacked ?? 0 }))
  const order = all.filter((c) => !c.place).map((c) => c.i)
  for (const { i, place } of all.filter((c) => c.place).sort((a, b) => a.place - b.place)) order.splice(place - 1, 0, i)
  return order
}

/** The wordings with the words of a part changed in one language; with nothing said they go. */
export function say(
  wordings: Record<string, Wording>,
  tag: string,
  id: string,
  words: PartWords,
): Record<string, Wording> {
  const mine = wordings[tag] ?? {}
  return { ...wordings, [tag]: { ...mine, parts: { ...mine.parts, [id]: words } } }
}

const bare = (html: string) => new DOMParser().parseFromString(html, 'text/html').body.textContent ?? ''

/** What a part says once HTML was written where it stands: a text or a heading; of other kinds what it said. */
export function written(rows: Row[], id: string, words: PartWords, html: string): PartWords {
  const kind = partsOf(rows).find((p) => p.id === id)?.kind
  if (kind === 'text') return { ...words, text: html }
  return kind === 'heading' ? { ...words, heading: bare(html) } : words
}

/** The wordings without words for parts that are not in the rows. */
export function pruned(wordings: Record<string, Wording>, rows: Row[]): Record<string, Wording> {
  const there = new Set(partsOf(rows).map((p) => p.id))
  return Object.fromEntries(
    Object.entries(wordings).map(([tag, w]) => {
      const parts = Object.entries(w.parts ?? {}).filter(([id]) => there.has(id))
      const next: Wording = { ...w, parts: Object.fromEntries(parts) }
      if (!parts.length) delete next.parts
      return [tag, next]
    }),
  )
}

/** The first words of a part, for its place in the sketch. */
export function opening(part: Part, words: PartWords | undefined): string {
  const said = words?.heading || bare(words?.text ?? '') || words?.links?.map((l) => l.label).join(', ') || ''
  return said || part.contact?.map((l) => l.value).join(', ') || ''
}
