// The few lines behind the small stable address that sites name. The server
// puts what this site's script is to know, one JSON object, in place of the mark.
declare const __MASTFLAG__: Record<string, string>

try {
  const own = document.currentScript as HTMLScriptElement
  const { script: path, ...known } = __MASTFLAG__
  const script = document.createElement('script')
  script.src = new URL(own.src).origin + path
  script.async = true
  script.nonce = own.nonce
  Object.assign(script.dataset, known)
  document.head.append(script)
} catch {
  // Whatever fails here, the page goes on as it would without.
}
