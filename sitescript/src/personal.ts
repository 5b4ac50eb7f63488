// Words for one visitor: what the site has told of them, in the places of a notice that are for it.

/**
 * Puts values into a notice, as text, by the names of its places; where there is none, or an empty one, the words
 * for all others stand.
 */
export function fill(root: ShadowRoot | null | undefined, valueOf: (name: string) => unknown): void {
  for (const e of root?.querySelectorAll<HTMLElement>('[data-personal]') ?? []) {
    const value = valueOf(e.dataset.personal!)
    e.dataset.words ??= e.textContent!
    const says = String(value ?? '') || e.dataset.words
    if (e.textContent !== says) e.textContent = says
  }
}
