// Where calls that do not work are caught and said: in passing, or where they were made.
import { ref } from 'vue'
import type { CallError, Problem } from '../api/client'
import { tell } from './tell'

/** Why something did not work, as people read it. */
export const reason = (e: unknown): string => (e as Error).message

/** What the server said of a call that it refused; nothing where it was not reached. */
export const problemOf = (e: unknown): Problem | undefined => (e as Partial<CallError>).problem

/** Does something, and says in passing that it is done or why it is not; whether it is. */
export async function attempt(work: () => Promise<unknown>, done = ''): Promise<boolean> {
  try {
    await work()
    if (done) tell(done)
    return true
  } catch (e) {
    tell(reason(e), 'error')
    return false
  }
}

/**
 * The same for a place that shows why itself: `error` says why the last attempt failed, "" if it did not; `busy` is
 * what is on its way, "" if nothing is.
 */
export function useAttempts() {
  const error = ref('')
  const busy = ref('')
  async function attempt(what: string, work: () => Promise<unknown>, done = ''): Promise<boolean> {
    busy.value = what
    error.value = ''
    try {
      await work()
      if (done) tell(done)
      return true
    } catch (e) {
      error.value = reason(e)
      return false
    } finally {
      busy.value = ''
    }
  }
  return { error, busy, attempt }
}
