// To a translator and back: texts as XLIFF.
import { api } from '../api/client'
import { attempt } from './attempts'
import { saveText } from './file'
import { tell } from './tell'

/** Saves the texts of a notice or of a document for a translator into a language. */
export async function sendOut(
  site: string,
  language: string,
  only: { notice?: string; document?: string },
): Promise<void> {
  await attempt(async () => {
    const f = await api.xliff(site, language, only)
    saveText(f.name, f.text, 'application/xliff+xml')
    tell(`${f.name} is saved. Send it to the translator, and take it in again here.`)
  })
}

/** Takes in the file that was chosen in an input, and empties it; true if it could be read. */
export async function takeIn(site: string, e: Event): Promise<boolean> {
  const input = e.target as HTMLInputElement
  const chosen = input.files?.[0]
  if (!chosen) return false
  const taken = await attempt(async () => {
    const got = await api.takeXliff(site, { name: chosen.name, text: await chosen.text() })
    const left = got.left.length ? ` Left out: ${got.left.join('; ')}.` : ''
    tell(
      got.changed.length ? `Taken in for ${got.changed.join(', ')}.${left}` : `Nothing in it was new.${left}`,
      left ? 'warning' : 'success',
    )
  })
  input.value = ''
  return taken
}
