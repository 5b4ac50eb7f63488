// Working on an audience's tree: every function returns a new tree. A place in
// it is the list of indexes that lead there from the outermost group.
import type { Node } from '../../../api/client'

export type Group = 'all' | 'any' | 'none'
export type Place = number[]

/** The group that a node is, "" if it is a condition. */
export function groupOf(n: Node): Group | '' {
  return n.all ? 'all' : n.any ? 'any' : n.none ? 'none' : ''
}

export function partsOf(n: Node): Node[] {
  return n.all ?? n.any ?? n.none ?? []
}

/** The node as a group of that kind with those parts. */
export function asGroup(n: Node, group: Group, parts: Node[]): Node {
  return n.off ? { [group]: parts, off: true } : { [group]: parts }
}

/** An audience as a group to work on: a condition that stands alone is put into one. */
export function asRoot(n: Node | undefined): Node {
  return !n ? { all: [] } : groupOf(n) ? n : { all: [n] }
}

export function at(root: Node, place: Place): Node {
  return place.reduce((n, i) => partsOf(n)[i], root)
}

/** Changes the node at a place; to nothing removes it. */
export function put(root: Node, place: Place, change: (n: Node) => Node | undefined): Node {
  if (!place.length) return change(root) ?? { all: [] }
  const [i, ...rest] = place
  const parts = [...partsOf(root)]
  if (rest.length) parts[i] = put(parts[i], rest, change)
  else {
    const next = change(parts[i])
    parts.splice(i, 1, ...(next ? [next] : []))
  }
  return asGroup(root, groupOf(root) as Group, parts)
}

/** Puts a node into the group at a place, before its i-th part. */
export function insert(root: Node, group: Place, i: number, node: Node): Node {
  return put(root, group, (g) =>
    asGroup(g, groupOf(g) as Group, [...partsOf(g).slice(0, i), node, ...partsOf(g).slice(i)]),
  )
}

/** Moves a node before the i-th part of a group; into itself it does not go. */
export function move(root: Node, from: Place, group: Place, i: number): Node {
  if (from.every((step, k) => group[k] === step)) return root
  const node = at(root, from)
  const to = [...group]
  const last = from.length - 1
  const sameParent = group.length === last && from.slice(0, last).every((s, k) => s === group[k])
  // Taking it out moves what stands behind it up by one.
  if (sameParent && from[last] < i) i--
  else if (group.length > last && from.slice(0, last).every((s, k) => s === group[k]) && from[last] < group[last])
    to[last]--
  return insert(
    put(root, from, () => undefined),
    to,
    i,
    node,
  )
}

/** Where a key moves a node: up or down among its neighbours, out of its group, or into the group before it. */
export function step(root: Node, place: Place, key: 'up' | 'down' | 'out' | 'in'): { root: Node; place: Place } {
  const group = place.slice(0, -1)
  const i = place[place.length - 1]
  const siblings = partsOf(at(root, group))
  const stay = { root, place }
  switch (key) {
    case 'up':
      return i === 0 ? stay : { root: move(root, place, group, i - 1), place: [...group, i - 1] }
    case 'down':
      return i === siblings.length - 1 ? stay : { root: move(root, place, group, i + 2), place: [...group, i + 1] }
    case 'out': {
      if (!group.length) return stay
      const outer = group.slice(0, -1)
      const behind = group[group.length - 1] + 1
      return { root: move(root, place, outer, behind), place: [...outer, behind] }
    }
    case 'in': {
      const before = siblings[i - 1]
      if (!before || !groupOf(before)) return stay
      const n = partsOf(before).length
      return { root: move(root, place, [...group, i - 1], n), place: [...group, i - 1, n] }
    }
  }
}

/** The JSON Pointer of a place (RFC 6901). alone: the audience is a condition without a group. */
export function pointer(root: Node, place: Place, alone: boolean): string {
  if (alone) return ''
  let n = root
  let out = ''
  for (const i of place) {
    out += `/${groupOf(n)}/${i}`
    n = partsOf(n)[i]
  }
  return out
}

/** How many conditions count. */
export function countLeaves(n: Node): number {
  if (n.off) return 0
  return groupOf(n) ? partsOf(n).reduce((sum, p) => sum + countLeaves(p), 0) : 1
}
