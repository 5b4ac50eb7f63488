// Words and pictures for one visitor: by what the site has told of them, in the places of a notice that are for it.
import type { components } from '../../web/src/api/schema'

type PictureTable = components['schemas']['PictureTable']
type Image = components['schemas']['Image']
type Told = (name: string) => unknown

/**
 * Puts values into a notice, as text, by the names of its places; where there is none, or an empty one, the words
 * for all others stand. Of pictures by a table shows the one for the value.
 */
export function fill(root: ShadowRoot | null | undefined, valueOf: Told): void {
  for (const e of root?.querySelectorAll<HTMLElement>('[data-personal]') ?? []) {
    const value = valueOf(e.dataset.personal!)
    e.dataset.words ??= e.textContent!
    const says = String(value ?? '') || e.dataset.words
    if (e.textContent !== says) e.textContent = says
  }
  for (const e of root?.querySelectorAll<HTMLElement>('[data-table]') ?? []) choose(e, valueOf)
}

const fold = (s: string) => s.normalize().toLowerCase()

/** Shows the picture of the first row for the visitor's value; the last is for all others. */
function choose(picture: HTMLElement, valueOf: Told): void {
  const { by, rows } = JSON.parse(picture.dataset.table!) as PictureTable
  const value = fold(String(valueOf(by) ?? ''))
  const own = value ? rows.findIndex((r) => r.value && fold(r.value) === value) : -1
  const row = String(own < 0 ? rows.length - 1 : own)
  if (picture.dataset.row === row || (!picture.dataset.row && own < 0)) return
  picture.dataset.row = row
  const image = rows[+row]!
  const { address, phone } = image
  picture.hidden = !address
  picture.querySelector('source')?.remove()
  const img = picture.querySelector('img')!
  if (!address) return
  if (phone) {
    const source = document.createElement('source')
    source.media = '(max-width:639px)'
    source.srcset = phone.address!
    size(source, phone)
    picture.prepend(source)
  }
  img.src = address
  size(img, image)
}

function size(e: HTMLSourceElement | HTMLImageElement, { width, height }: Image): void {
  e.removeAttribute('width')
  e.removeAttribute('height')
  if (width) e.width = width
  if (height) e.height = height
}
