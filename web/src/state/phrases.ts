// What the program itself says to visitors, by language: read once, because it does not change while it runs.
import { shallowReactive } from 'vue'
import { api, type PhraseList } from '../api/client'
import { attempt } from '../instruments/attempts'

const lists = shallowReactive(new Map<string, PhraseList>())
const asked = new Set<string>()

/** The phrases of a language, once they were read. */
export function phrasesIn(site: string, language: string): PhraseList | undefined {
  if (!asked.has(language) && language) {
    asked.add(language)
    void attempt(async () => lists.set(language, await api.phrases(site, language))).then(
      (ok) => ok || asked.delete(language),
    )
  }
  return lists.get(language)
}

/** What a visitor gets of a phrase where the notice says nothing: `beneath`, the site's words, or the program's. */
export function usual(list: PhraseList, key: string, beneath?: Record<string, string>): string {
  const row = list.rows.find((r) => r.key === key)
  return beneath?.[key] || (list.state === 'ready' ? row?.text : row?.english) || ''
}
