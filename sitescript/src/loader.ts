// The few lines behind the small stable address that sites name. The server puts what this site's
// script is to know, one JSON object, in place of the mark. They run as a module, begun by the line
// in the page, or as a script element's; nothing here or after it is an element that the page's
// `load` event would wait for.
import { bring } from './bring'

declare const __MASTFLAG__: Record<string, string>

try {
  const own = document.currentScript as HTMLScriptElement | null // none in a module
  const { server, script, ...known } = __MASTFLAG__
  const from = own ? new URL(own.src).origin : server!
  // However often a page carries the lines, one script works on it.
  const begun = document as unknown as Record<symbol, boolean>
  const name = Symbol.for(`mastflag ${known.mastflag}`)
  if (!begun[name]) {
    begun[name] = true
    const nonce = (own ?? document.querySelector<HTMLScriptElement>('script[nonce]'))?.nonce
    void bring<typeof import('./site')>(from + script).then(
      (m) => m.start(from, known, nonce ?? ''),
      () => {
        begun[name] = false
        ;(window as { mastflag?: { gone?(): void } }).mastflag?.gone?.()
      },
    )
  }
} catch {
  // Whatever fails here, the page goes on as it would without.
}
