// Sends answers to the server: now or, where that fails, on the next page. Part of
// what asks for consent and of what takes answers to disclaimers.
import type { Policy } from './trust'
import type { Memory } from './memory'
import type { Bar } from './shapes'

/** What a part of the script that takes answers works with. */
export interface Page {
  memory: Memory
  /** Where the server takes something of this site. */
  at(what: string): string
  /** Facts to send with every question. */
  more: Record<string, unknown>
  ask(again?: unknown): Promise<void>
  now(): string
  /** The path of this page view, with its route. */
  path(): string
  /** Whether this is a preview, which keeps and sends nothing. */
  quiet(): unknown
  rootOf(id: string): ShadowRoot | null | undefined
  shadow(html: string, css: string): HTMLElement
  /** Puts an element beside the body, where it stays until it is detached. */
  attach(e: HTMLElement): void
  detach(e?: HTMLElement): void
  drop(bar: Bar): void
  /** By what HTML and scripts go into the page. */
  policy: Policy
}

/** The id of a new record: 128 random bits in hex. */
export const newID = () =>
  [...crypto.getRandomValues(new Uint8Array(16))].map((b) => b.toString(16).padStart(2, '0')).join('')

/** Sends what waits under a name in the visitor's memory; `mark` lets this page send it, for a while. */
export function sender(page: Page, waiting: 'untold' | 'unsent', address: string, mark: () => string | undefined) {
  const { memory } = page
  let sending = false
  /** The mark that ran out before what waits was sent. */
  let stale = ''
  async function send(): Promise<void> {
    if (sending) return
    sending = true
    try {
      for (let next; (next = memory.kept[waiting]?.[0]);) {
        const now = mark()
        if (!now) break
        const reply = await fetch(`${address}?mark=${now}`, {
          method: 'POST',
          credentials: 'omit',
          keepalive: true,
          body: JSON.stringify(next),
        })
        // What it refuses it would refuse again; what it could not take it may take later.
        if (reply.status >= 500 || reply.status === 429) break
        // The page has stood open for long: it asks again, and sends it then.
        if (reply.status === 428) {
          if (stale !== now) setTimeout(page.ask)
          stale = now
          break
        }
        const done = JSON.stringify(next)
        memory.change((k) => (k[waiting] = k[waiting]?.filter((t) => JSON.stringify(t) !== done)))
      }
    } catch {
      // Another time.
    }
    sending = false
  }
  return {
    send,
    enqueue(what: object): void {
      memory.change((k) => (k[waiting] = [...(k[waiting] ?? []), what].slice(-20)))
      void send()
    },
  }
}

/** Saves a receipt as a file. */
export async function download(address: string): Promise<void> {
  const reply = await fetch(address, { credentials: 'omit' })
  if (!reply.ok) return
  const link = document.createElement('a')
  link.href = URL.createObjectURL(await reply.blob())
  link.download = 'receipt.json'
  link.click()
}
