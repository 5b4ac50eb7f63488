// The program that decides for this site, as this page reaches it.
import { bring } from './bring'

/** Its address; and what the loader says of the site and of where each part of the script lies. */
export let server = ''
export let settings: Record<string, string> = {}

export function connect(to: string, known: Record<string, string>): void {
  server = to
  settings = known
}

/** Where it takes something of this site. */
export const at = (what: string): string => `${server}/${what}/${settings.mastflag}`

/** Loads a part of the script. */
export const load = <T>(part: string): Promise<T> => bring<T>(server + settings[part])
