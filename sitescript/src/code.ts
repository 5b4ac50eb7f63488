// Puts code into the page: once a page view, in its three places; and takes out
// again what was put in once it is not to be there. What has run has run.
import type { Bar } from './shapes'
import { runnable, type Policy } from './trust'

type Shadow = (html: string, css: string) => HTMLElement

/** What was put into the page, by the notice's id, on this page view. */
const inside = new Map<string, Node[]>()
let view = ''

/** The nodes of code, with scripts that run once they are in the page. */
function nodesOf(html: string, shadow: Shadow, policy: Policy, nonce: string): Node[] {
  const root = shadow(html, '').shadowRoot as ShadowRoot
  for (const dead of root.querySelectorAll('script')) {
    const script = runnable(dead, policy)
    script.nonce ||= nonce
    dead.replaceWith(script)
  }
  return [...root.childNodes]
}

/** Makes exactly this code be in the page that has this path. */
export function putCode(bars: Bar[], path: string, shadow: Shadow, policy: Policy, nonce: string): void {
  const take = (id: string) => {
    for (const node of inside.get(id) ?? []) (node as ChildNode).remove()
    inside.delete(id)
  }
  const anew = view !== path
  view = path
  for (const id of inside.keys()) if (anew || !bars.some((b) => b.id === id)) take(id)
  for (const { id, code = {} } of bars) {
    if (inside.has(id)) continue
    const all: Node[] = []
    inside.set(id, all)
    for (const [place, html] of Object.entries(code)) {
      const nodes = nodesOf(html, shadow, policy, nonce)
      all.push(...nodes)
      if (place === 'head') document.head.append(...nodes)
      else if (place === 'start') document.body.prepend(...nodes)
      else document.body.append(...nodes)
    }
  }
}
