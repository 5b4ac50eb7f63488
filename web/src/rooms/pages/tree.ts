import type { CarryingPage } from '../../api/client'
import { steps } from '../../instruments/paths'

/** A page in the tree, or a step on the way to some that is no page itself. */
export interface Twig {
  path: string
  label: string
  page?: CarryingPage
  children: Twig[]
}

/** Makes a tree of pages by the segments of their paths; the root page first. */
export function branch(pages: CarryingPage[]): Twig[] {
  const root: Twig = { path: '', label: '', children: [] }
  const twigs = new Map<string, Twig>()
  for (const page of [...pages].sort((a, b) => (a.path < b.path ? -1 : 1))) {
    let at = root
    let path = ''
    for (const step of steps(page.path)) {
      path += step
      let next = twigs.get(path)
      if (!next) {
        next = { path, label: at === root || step[0] === '#' ? step : step.slice(1), children: [] }
        at.children.push(next)
        twigs.set(path, next)
      }
      at = next
    }
    at.page = page
  }
  return root.children
}

/** How many rows a tree has, all unfolded. */
export const count = (twigs: Twig[]): number => twigs.reduce((n, t) => n + 1 + count(t.children), 0)

/** How many pages lie below a twig. */
export const below = (twig: Twig): number => twig.children.reduce((n, t) => n + (t.page ? 1 : 0) + below(t), 0)

/** The paths of the twigs that have others below them. */
export const folders = (twigs: Twig[]): string[] =>
  twigs.flatMap((t) => (t.children.length ? [t.path, ...folders(t.children)] : []))
