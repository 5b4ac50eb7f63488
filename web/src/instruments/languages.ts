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

/** What a language calls itself: "Deutsch" for de; "" where that is not known. */
export function ownNameOf(tag: string): string {
  try {
    const own = new Intl.DisplayNames([tag], { type: 'language', fallback: 'none' }).of(tag) ?? ''
    return own && own[0]!.toLocaleUpperCase(tag) + own.slice(1)
  } catch {
    return ''
  }
}

/** A text as a BCP 47 tag in its usual form; "" where it is none that has a name. */
export function tagOf(text: string): string {
  try {
    const [tag = ''] = Intl.getCanonicalLocales(text)
    return names.of(tag) !== tag ? tag : ''
  } catch {
    return ''
  }
}

/** The two-letter codes of ISO 639-1. */
export const languageTags = (
  'aa ab af ak am an ar as av ay az ba be bg bi bm bn bo br bs ca ce ch co cr cs cv cy da de dv dz ee ' +
  'el en eo es et eu fa ff fi fj fo fr fy ga gd gl gn gu gv ha he hi ho hr ht hu hy hz ia id ig ii ik ' +
  'io is it iu ja jv ka kg ki kj kk kl km kn ko kr ks ku kv kw ky la lb lg li ln lo lt lu lv mg mh mi ' +
  'mk ml mn mr ms mt my na nb nd ne ng nl nn no nr nv ny oc oj om or os pa pi pl ps pt qu rm rn ro ru ' +
  'rw sa sc sd se sg si sk sl sm sn so sq sr ss st su sv sw ta te tg th ti tk tl tn to tr ts tt tw ty ' +
  'ug uk ur uz ve vi vo wa wo xh yi yo za zh zu'
).split(' ')
