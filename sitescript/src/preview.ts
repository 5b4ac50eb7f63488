// A page that was opened by a preview link says so, and lets go of it.
import { shadow } from './place'

const param = /[#&]mastflag-preview=([^&]*)/

/** Takes the token out of the page's address, or finds the one this tab has. */
export function token(name: string): string {
  const found = param.exec(location.hash)
  if (found) {
    const rest = location.hash.replace(found[0], '').replace(/^&/, '#')
    history.replaceState(history.state, '', location.pathname + location.search + (rest === '#' ? '' : rest))
    keep(name, decodeURIComponent(found[1]))
    return decodeURIComponent(found[1])
  }
  try {
    return sessionStorage.getItem(name) ?? ''
  } catch {
    return ''
  }
}

export function keep(name: string, value: string): void {
  try {
    if (value) sessionStorage.setItem(name, value)
    else sessionStorage.removeItem(name)
  } catch {
    // Barred: the preview lasts as long as the page.
  }
}

let ribbon: HTMLElement | undefined

/** Says in a corner what is being seen; "" says nothing. */
export function say(text: string, end: () => void): void {
  ribbon?.remove()
  ribbon = undefined
  if (!text) return
  ribbon = shadow(
    '<aside aria-label="Preview"><span></span><button type="button">End preview</button></aside>',
    'aside{position:fixed;inset-inline-start:12px;bottom:12px;z-index:2147483001;display:flex;gap:12px;align-items:center;padding:8px 12px;border-radius:3px;background:#16202e;color:#fbfaf5;font:14px/1.4 system-ui,sans-serif}button{min-height:28px;padding:2px 10px;border:1px solid;border-radius:3px;background:none;color:inherit;font:inherit;cursor:pointer}',
  )
  const root = ribbon.shadowRoot as ShadowRoot
  ;(root.querySelector('span') as HTMLElement).textContent = text
  root.querySelector('button')?.addEventListener('click', end)
  document.body.after(ribbon)
}
