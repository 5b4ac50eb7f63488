// A page that was opened by a preview link says so, and lets go of it. Loaded
// by such pages alone.

const framed = /^mastflag-preview=(.*)/
const linked = /[#&?]mastflag-preview=([^&]*)/

/** Takes the token out of the name of the stage's frame, or that of a preview link out of the page's address. */
export function take(name: string): string {
  const named = framed.exec(window.name)
  const found = named ?? linked.exec(location.hash)
  if (!found) return ''
  if (named) window.name = ''
  else {
    const rest = location.hash.replace(found[0], '').replace(/^&/, '#')
    history.replaceState(history.state, '', location.pathname + location.search + (rest === '#' ? '' : rest))
  }
  const token = decodeURIComponent(found[1])
  keep(name, token)
  return token
}

/** Keeps the token for this tab, or forgets it if it is "". */
function keep(name: string, token: string): void {
  try {
    if (token) sessionStorage.setItem(name, token)
    else sessionStorage.removeItem(name)
  } catch {
    // Barred: the preview lasts as long as the page.
  }
}

type Shadow = (html: string, css: string) => HTMLElement

let ribbon: HTMLElement | undefined

/** Says in a corner what is being seen, with a button that leaves it. */
function tell(shadow: Shadow, text: string, end: () => void): void {
  ribbon?.remove()
  ribbon = shadow(
    '<aside aria-label="Preview"><span></span><button type="button">End preview</button></aside>',
    'aside{position:fixed;inset-inline-start:12px;bottom:12px;z-index:2147483001;display:flex;gap:12px;' +
      'align-items:center;padding:8px 12px;border-radius:3px;background:#16202e;color:#fbfaf5;font:14px/1.4 ' +
      'system-ui,' +
      'sans-serif}button{min-height:28px;padding:2px 10px;border:1px solid;border-radius:3px;background:none;' +
      'color:inherit;font:inherit;cursor:pointer}',
  )
  const root = ribbon.shadowRoot as ShadowRoot
  ;(root.querySelector('span') as HTMLElement).textContent = text
  root.querySelector('button')?.addEventListener('click', end)
  document.body.after(ribbon)
}

/** Says that a preview is seen. */
export const say = (shadow: Shadow, stop: () => void) =>
  tell(shadow, 'A preview: visitors do not see this yet.', () => stop())

/** Forgets the token; says so where the preview has run out. */
export function stop(name: string, shadow: Shadow, gone?: boolean): void {
  keep(name, '')
  if (gone) tell(shadow, 'This preview link no longer works. You see the site as it is.', () => ribbon?.remove())
  else ribbon?.remove()
}
