// Names of languages.
const names = new Intl.DisplayNames(['en'], { type: 'language' })

/** Whether a language is written from right to left. */
function fromRight(tag: string): boolean {
  try {
    const l = new Intl.Locale(tag) as { getTextInfo?: () => { direction: string }; textInfo?: { direction: string } }
    return (l.getTextInfo?.() ?? l.textInfo)?.direction === 'rtl'
  } catch {
    return false
  }
}

/** Where a corner is on pages in a language: "bottom left corner". */
export const corner = (at: 'start' | 'end', tag: string) =>
  `bottom ${(at === 'start') !== fromRight(tag) ? 'left' : 'right'} corner`

/** "German" for de; the tag itself where it has no name, "" for none. */
export function nameOf(tag: string): string {
  try {
    return (tag && names.of(tag)) || tag
  } catch {
    return tag
  }
}
