// What was asked last counts, however late the answers to what was asked before
// come; and nothing counts any more once the room is left.
import { onScopeDispose } from 'vue'

/**
 * Returns a function that asks, and takes the answer if nothing was asked since. One that fails is dropped, or told to
 * `failed`.
 */
export function latest<T>(
  ask: () => Promise<T>,
  take: (answer: T) => void,
  failed: (error: unknown) => void = () => {},
): () => Promise<void> {
  let asked = 0
  onScopeDispose(() => asked++)
  return async () => {
    const mine = ++asked
    try {
      const answer = await ask()
      if (mine === asked) take(answer)
    } catch (e) {
      if (mine === asked) failed(e)
    }
  }
}
