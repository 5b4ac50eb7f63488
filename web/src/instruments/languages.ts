// Names of languages.
const names = new Intl.DisplayNames(['en'], { type: 'language' })

/** "German" for de; the tag itself where it has no name, "" for none. */
export function nameOf(tag: string): string {
  try {
    return (tag && names.of(tag)) || tag
  } catch {
    return tag
  }
}
