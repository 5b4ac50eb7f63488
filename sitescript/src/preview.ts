// The preview of a draft, by a token that the address or the session carries: the page then shows the draft as well,
// and keeps and counts nothing.
import { load, server, settings } from './program'
import { shadow } from './place'

/** Whether the page stands in a frame, as on the administrator's stage. */
const isFramed = parent !== window

let token = ''
/** The token; "" where this is no preview. */
export const preview = (): string => token

const ribbon = () => load<typeof import('./ribbon')>('ribbon')
const tokenName = () => `mastflag.${settings.mastflag}.preview`

/** Takes the token, from the frame's name or the address first; the loading of what that needs, if it needs any. */
export function takeToken(): Promise<unknown> | undefined {
  try {
    token = sessionStorage.getItem(tokenName()) ?? ''
  } catch {
    // Barred: a preview lasts as long as the page.
  }
  if (/(^|[#&?])mastflag-preview=/.test(name + location.hash))
    return ribbon().then((r) => (token = r.take(tokenName())))
  return
}

/** From now on the page is seen as it is; gone is whether the preview has run out. */
export function stopPreview(gone: boolean): Promise<void> {
  token = ''
  return ribbon().then(
    (r) => r.stop(tokenName(), shadow, gone),
    () => {},
  )
}

/** Says that this is a preview. */
export function sayPreview(stop: () => void): void {
  if (token && !isFramed) void ribbon().then((r) => r.say(shadow, stop))
}

/** Lets the stage work the page. */
export function obeyStage(ask: () => void): void {
  if (token && isFramed)
    void load<typeof import('./stage')>('stage').then((m) => m.start(server, settings.picture!, !settings.routes, ask))
}

/** Tells the stage what stands on the page, and what of it for the top of the page stands at the bottom. */
export function tellStage(ids: string[], atBottom: string[]): void {
  if (token && isFramed) parent.postMessage({ mastflag: 'placed', ids, atBottom }, server)
}
