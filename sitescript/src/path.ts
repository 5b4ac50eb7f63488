// How elements of the page are named in styles.

/** A selector that finds an element and nothing else, for as long as the page stands as it does. */
export function pathOf(e: Element): string {
  const steps: string[] = []
  for (let at: Element | null = e; at?.parentElement; at = at.parentElement) {
    const { id, localName, parentElement } = at
    if (id && document.querySelectorAll(`#${CSS.escape(id)}`).length === 1)
      return [`#${CSS.escape(id)}`, ...steps].join('>')
    const like = [...parentElement.children].filter((s) => s.localName === localName)
    steps.unshift(`${CSS.escape(localName)}:nth-of-type(${like.indexOf(at) + 1})`)
  }
  return ['html', ...steps].join('>')
}
