// A program and a page for tests: what is asked is noted, and answered as a test says.
import { vi } from 'vitest'
import type { Answer, Bar } from '../shapes'

/** What jsdom has not: style sheets that scripts make. */
class Sheet {
  css = ''
  replaceSync(css: string): void {
    this.css = css
  }
}

/** What undoes what the pages of earlier tests have left in the window. */
let leftovers: (() => void)[] = []
for (const target of [window, Document.prototype as unknown as Window]) {
  const { addEventListener } = target
  target.addEventListener = function (this: EventTarget, ...of: Parameters<typeof addEventListener>) {
    leftovers.push(() => (this ?? window).removeEventListener(...of))
    addEventListener.apply(this as Window, of)
  } as typeof addEventListener
}
class Observer extends MutationObserver {
  constructor(callback: MutationCallback) {
    super(callback)
    leftovers.push(() => this.disconnect())
  }
}

export const instant = Date.parse('2026-12-04T12:00:00Z')

/** Gives the page what jsdom lacks, an empty memory, and a clock that stands at the instant. */
export async function freshPage(path = '/fares'): Promise<void> {
  if (vi.isFakeTimers()) await settle() // what an earlier page has begun
  vi.resetModules()
  for (const undo of leftovers) undo()
  leftovers = []
  vi.useRealTimers()
  vi.useFakeTimers({ now: instant })
  vi.stubGlobal('MutationObserver', Observer)
  vi.stubGlobal('CSSStyleSheet', Sheet)
  vi.stubGlobal('ResizeObserver', Nothing)
  vi.stubGlobal('CSS', { escape: (s: string) => s.replace(/[^\w-]/g, '\\$&') })
  document.adoptedStyleSheets = []
  delete (document as { mastflag?: unknown }).mastflag
  delete (window as { mastflag?: unknown }).mastflag
  localStorage.clear()
  sessionStorage.clear()
  history.replaceState(null, '', path)
  document.documentElement.innerHTML = '<head><title>Fares</title></head><body><h1>Fares</h1></body>'
}
class Nothing {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
}

/** The styles that hold on the page by its script, by area. */
export const styleOf = (area: 'edges' | 'blocks'): string =>
  (document as { mastflag?: Record<string, { css: string }> }).mastflag?.[area]?.css ?? ''

/** A notice in a corner, as a decision carries it. */
export const card = (id: string, more: Partial<Bar> = {}): Bar => ({
  id,
  slot: 'corner-end',
  position: 'sticking',
  html: `<div class="bar"><span class="words">${id}</span><button data-act="close">x</button></div>`,
  css: '',
  order: 1,
  tag: `of ${id}`,
  ...more,
})

/** An answer in which this shows. */
export const answer = (show: Bar[], more: Partial<Answer> = {}): Answer => ({
  at: Date.now(),
  until: null,
  show,
  ...more,
})

interface Asked {
  url: string
  facts: Record<string, unknown>
  memory: { session?: string; view?: string; notices: Record<string, Record<string, unknown>> }
  wants?: string
  preview?: string
  again?: boolean
  have: string[]
}

/** A program that answers decisions in their turn; the last again and again. */
export class Program {
  asked: Asked[] = []
  told: { url: string; body: unknown }[] = []
  answers: (Answer | number | 'away' | Promise<Answer>)[]
  constructor(...answers: Program['answers']) {
    this.answers = answers
    vi.stubGlobal('fetch', (url: string, { body }: { body?: string } = {}) => this.take(url, body))
  }
  private async take(url: string, body = 'null'): Promise<unknown> {
    if (!url.includes('/d/')) {
      this.told.push({ url, body: JSON.parse(body) as unknown })
      return { ok: true, status: 204 }
    }
    this.asked.push(JSON.parse(body) as Asked)
    const next = await (this.answers.length > 1 ? this.answers.shift()! : this.answers[0]!)
    if (next === 'away') throw new TypeError('Failed to fetch')
    if (typeof next === 'number') return { ok: false, status: next }
    return { ok: true, status: 200, json: () => Promise.resolve(structuredClone(next)) }
  }
  get last(): Asked {
    return this.asked.at(-1)!
  }
}

/** Lets what is under way come about. */
export const settle = (ms = 0): Promise<unknown> => vi.advanceTimersByTimeAsync(ms)
