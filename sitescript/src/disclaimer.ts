// Takes answers to disclaimers: keeps in the visitor's browser what was
// acknowledged, tells the server, gives the receipt, and erases it. Loaded only on
// pages that carry a disclaimer which has to be answered.
import type { Bar, DisclaimerState as State, Disclaims } from './shapes'
import { download, newID, sender, type Page } from './sending'

export interface Disclaimer {
  hold(state: State | undefined, bars: Bar[]): void
  act(bar: Bar, what: string): void
}

/** The address of a link in the page that shows a visitor what they answered. */
const mine = '#mastflag-answers'

export function start(page: Page): Disclaimer {
  const address = page.at('r')
  const { memory } = page
  let state: State | undefined
  let panel: HTMLElement | undefined
  const { send, enqueue } = sender(page, 'unsent', address, () => state?.mark)

  /** Says what was answered, with the ways around it; `done` is said before. */
  function show(done = ''): void {
    if (!state) return
    const { words, titles } = state
    const answers = Object.entries(memory.kept.acknowledged ?? {}).filter(([as]) => titles[as])
    page.detach(panel)
    panel = page.shadow(
      '<section class="panel" role="status"><p></p><ul></ul><button type="button" class="shut"></button></section>',
      css,
    )
    const root = panel.shadowRoot as ShadowRoot
    root.querySelector('p')!.textContent = done
    for (const [as, { id, at }] of answers) {
      const row = document.createElement('li')
      row.append(`${titles[as]} (${new Date(at).toLocaleString(document.documentElement.lang || undefined)}) `)
      const button = (text: string, press: () => void) => {
        const b = document.createElement('button')
        b.type = 'button'
        b.textContent = text
        b.onclick = press
        row.append(b)
      }
      button(words.receipt, () => void download(`${address}/${id}`))
      button(words.erase, () => void erase(as, id))
      root.querySelector('ul')!.append(row)
    }
    const close = root.querySelector<HTMLElement>('.shut')!
    close.textContent = words.close
    close.onclick = () => page.detach(panel)
    page.attach(panel)
    close.focus()
  }

  async function erase(as: string, id: string): Promise<void> {
    const reply = await fetch(`${address}/${id}`, { method: 'DELETE', credentials: 'omit' })
    // One that was erased before, or never kept, is not there either.
    if (!reply.ok && reply.status !== 404 && reply.status !== 410) return
    memory.change((k) => delete k.acknowledged?.[as])
    show(state?.words.erased)
    void page.ask()
  }

  /** Keeps an answer and tells it. */
  function answer(d: Disclaims, outcome: 'acknowledged' | 'declared' | 'declined'): void {
    const id = newID()
    const { version, of } = d
    if (outcome !== 'declined')
      memory.change((k) => ((k.acknowledged ??= {})[d.as] = { id, version, of, at: page.now() }))
    enqueue({ id, hash: d.hash, outcome, version, page: page.path() })
  }

  document.addEventListener('click', (e) => {
    const link = (e.target as Element).closest?.('a')
    if (link?.getAttribute('href') !== mine) return
    e.preventDefault()
    show()
  })

  return {
    hold(next, bars) {
      state = next
      if (page.quiet() || !next) return
      for (const { disclaims: d } of bars) {
        const key = `shown:${d?.as}`
        if (!d || memory.kept.told?.[key] === d.hash) continue
        memory.change((k) => ((k.told ??= {})[key] = d.hash))
        enqueue({ asked: true, hash: d.hash })
      }
      if (memory.kept.unsent?.length) void send()
    },
    act(bar, what) {
      const d = bar.disclaims
      if (!d) return
      if (what === 'confirm') {
        if (!page.quiet()) answer(d, d.ask === 'declare' ? 'declared' : 'acknowledged')
        page.drop(bar)
        if (!page.quiet()) {
          show(state?.words.done)
          void page.ask()
        }
      }
      if (what === 'decline' && !page.quiet()) {
        answer(d, 'declined')
        if (d.else) location.assign(d.else)
      }
    },
  }
}

const css =
  '.panel{position:fixed;z-index:2147482995;inset-block-end:16px;inset-inline-end:16px;box-sizing:border-box;' +
  'max-width:min(420px,calc(100vw - 32px));padding:12px 16px;border:1px solid #767676;border-radius:3px;' +
  'background:#fff;color:#1c1c1c;box-shadow:0 4px 24px #0006}p{margin:0 0 4px}p:empty{display:none}ul{margin:0;' +
  'padding:0;list-style:none}li{margin:4px 0}button{font:inherit;font-size:14px;min-height:28px;margin:2px 8px 2px ' +
  '0;padding:2px 10px;border:1px solid #767676;border-radius:3px;background:#fff;color:#1c1c1c;cursor:pointer}' +
  'button:focus-visible{outline:3px solid #1c1c1c;outline-offset:2px}@media print{:host{display:none}}'
