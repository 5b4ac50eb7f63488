import type { CarryingPage } from '../../api/client'

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
  for (const page of [...pages].sort((a, b) => (a.path < b.path ? -1 : 1))) {
    if (page.path === '/') {
      root.children.unshift({ path: '/', label: '/', page, children: [] })
      continue
    }
    let at = root
    let path = ''
    for (const segment of page.path.slice(1).split('/')) {
      path += '/' + segment
      let next = at.children.find((c) => c.path === path)
      if (!next) {
        next = { path, label: at === root ? '/' + segment : segment, children: [] }
        at.children.push(next)
      }
      at = next
    }
    at.page = page
  }
  return root.children
}
