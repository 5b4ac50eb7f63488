// What the site tells the script: of the person, and of what happened.
import { person } from './facts'

type Value = string | number | boolean
interface Calls {
  person(traits: Record<string, unknown>): void
  event(name: string, properties?: Record<string, Value>): void
}

/** What happened, until it is taken. */
export const events: [string, object?][] = []

/**
 * Takes the site's calls from now on, and those that the line in the page has kept. onCall follows each: whether
 * another person is to be decided for, by what is sent of them, and what happened.
 */
export function takeCalls(sent: () => object, onCall: (isOther: boolean, event?: string) => void): void {
  const page = window as { mastflag?: { q?: [keyof Calls, ...never[]][] } | Calls }
  const calls: Calls = {
    person(traits) {
      const before = JSON.stringify(sent())
      // A string, a number or a boolean; nothing else is a trait.
      for (const [k, v] of Object.entries(traits)) person[k] = /^(st|n|bo)/.test(typeof v) ? v : undefined
      onCall(JSON.stringify(sent()) !== before)
    },
    event(name, properties) {
      events.push([name, properties])
      onCall(false, name)
    },
  }
  const { q = [] } = (page.mastflag ?? {}) as { q?: [keyof Calls, ...never[]][] }
  page.mastflag = calls
  for (const [name, first, second] of q) calls[name as 'event'](first!, second)
}
