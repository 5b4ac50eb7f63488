// The parts of the script that take what visitors answer and do: loaded where a decision says that there is something
// to take, and told of what happens on the page.
import { load } from './program'
import { sheets } from './reserve'
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
const answeringParts: Record<string, Answering | Promise<Answering | void>> = {}
const isLoaded = (part: unknown): part is Answering => !!part && !('then' in (part as object))

/** Begins to load the parts that this answer has something for. */
export function loadAnsweringParts(answer: Answer, page: object): void {
  for (const name of ['consent', 'disclaimer', 'results'] as const)
    // Where it cannot be loaded nothing runs that needs it, and the rest of the page is as it should be.
    if (answer[name] || (name === 'consent' && sheets().guard))
      answeringParts[name] ??= load<{ start(page: object): Answering }>(name)
        .then((m) => m.start(page))
        .catch(() => {})
}

/** Waits until they are loaded. What could not be loaded is loaded the next time. */
export async function answeringPartsLoaded(): Promise<void> {
  for (const name in answeringParts) {
    const part = await answeringParts[name]
    if (part) answeringParts[name] = part
    else delete answeringParts[name]
  }
}

/** Tells each what holds by an answer. */
export function hold(answer: Answer, bars: Bar[]): void {
  withAnsweringParts((part, name) => part.hold(answer[name as 'consent'], bars))
}

/** Has each of them do something, now or once it is loaded. */
export function withAnsweringParts(how: (part: Answering, name: string) => void): void {
  for (const [name, part] of Object.entries(answeringParts))
    if (isLoaded(part)) how(part, name)
    else void part.then((t) => t && how(t, name))
}

/** Whether what takes a notice's answer is loaded: before, a question does not show. */
export function isReady(b: Bar): boolean {
  const name = b.hash ? 'consent' : b.disclaims ? 'disclaimer' : ''
  return !name || isLoaded(answeringParts[name])
}
