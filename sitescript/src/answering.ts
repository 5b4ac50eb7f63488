// The parts of the script that take what visitors answer and do: loaded where a decision says that there is something
// to take, and told of what happens on the page.
import { load } from './program'
import type { Answer, Bar } from './shapes'

interface Answering {
  /** What holds from now on, and what stands on the page; undefined where nothing is asked any more. */
  hold(state: unknown, bars: Bar[]): void
  /** A press on a notice. */
  act(bar: Bar, what: string): void
  /** What shows may have changed, or the site told of something. */
  placed?(): void
}

/** Each part, or the loading of it. */
const takers: Record<string, Answering | Promise<Answering | void>> = {}
const isThere = (taker: unknown): taker is Answering => !!taker && !('then' in (taker as object))

/** Begins to load what takes what this answer lets visitors do. */
export function summon(answer: Answer, page: object): void {
  for (const name of ['consent', 'disclaimer', 'results'] as const)
    // Where it cannot be loaded nothing runs that needs it, and the rest of the page is as it should be.
    if (answer[name])
      takers[name] ??= load<{ start(page: object): Answering }>(name)
        .then((m) => m.start(page))
        .catch(() => {})
}

/** Waits until they are there. Those that could not be loaded are loaded the next time. */
export async function arrived(): Promise<void> {
  for (const name in takers) {
    const taker = await takers[name]
    if (taker) takers[name] = taker
    else delete takers[name]
  }
}

/** Tells each what holds by an answer. */
export function hold(answer: Answer, bars: Bar[]): void {
  withTakers((taker, name) => taker.hold(answer[name as 'consent'], bars))
}

/** Has each of them do something, now or once it is there. */
export function withTakers(how: (taker: Answering, name: string) => void): void {
  for (const [name, taker] of Object.entries(takers))
    if (isThere(taker)) how(taker, name)
    else void taker.then((t) => t && how(t, name))
}

/** Whether what takes a notice's answer is there: before, a question does not show. */
export function isReady(b: Bar): boolean {
  const name = b.hash ? 'consent' : b.disclaims ? 'disclaimer' : ''
  return !name || isThere(takers[name])
}
