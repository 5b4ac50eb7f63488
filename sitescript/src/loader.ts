// The few lines behind the small stable address that sites name. The server
// puts the site's key and the script's hashed address in place of the marks.
try {
  const own = document.currentScript as HTMLScriptElement
  const script = document.createElement('script')
  script.src = new URL(own.src).origin + '__SCRIPT__'
  script.async = true
  script.nonce = own.nonce
  script.dataset.mastflag = '__KEY__'
  script.dataset.wants = '__WANTS__'
  script.dataset.popup = '__POPUP__'
  script.dataset.stage = '__STAGE__'
  script.dataset.picture = '__PICTURE__'
  script.dataset.ribbon = '__RIBBON__'
  script.dataset.consent = '__CONSENT__'
  document.head.append(script)
} catch {
  // Whatever fails here, the page goes on as it would without.
}
