// The few lines behind the small stable address that sites name. The server puts what this site's
// script is to know, one JSON object, in place of the mark. They run as a module, begun by the line
// in the page, or as a script element's; nothing here or after it is an element that the page's
// `load` event would wait for.
import { bring } from './bring'

declare const __MASTFLAG__: Record<string, string>

try {
  const element = document.currentScript as HTMLScriptElement | null // none in a module
  const { server, script, ...settings } = __MASTFLAG__
  const origin = element ? new URL(element.src).origin : server!
  // However often a page carries the lines, one script works on it.
  const marks = document as unknown as Record<symbol, boolean>
  const mark = Symbol.for(`mastflag ${settings.mastflag}`)
  if (!marks[mark]) {
    marks[mark] = true
    const nonce = (element ?? document.querySelector<HTMLScriptElement>('script[nonce]'))?.nonce
    void bring<typeof import('./site')>(origin + script).then(
      (m) => m.start(origin, settings, nonce ?? ''),
      () => {
        marks[mark] = false
        ;(window as { mastflag?: { giveUp?(): void } }).mastflag?.giveUp?.()
      },
    )
  }
} catch {
  // Whatever fails here, the page goes on as it would without.
}
