// The page view: one address, from when the visitor came to it. An app goes on to another one by itself.

/** The address that was last asked about; none has its fragment. */
let asked = ''
let path = location.pathname
/** When it began, by this machine's clock, ms; and by the server's, in RFC 3339, once that has answered. */
let since = Date.now()
let began = ''

const address = (): string => location.href.split('#')[0]!

/** The address of the page, which is asked about now. */
export function noteAddress(): string {
  return (asked = address())
}

/** Whether the page has gone on to another address since the server was last asked. */
export const hasMoved = (): boolean => asked !== address()

/** Begins another page view where the path is another; whether it did. */
export function startNextView(): boolean {
  if (path === location.pathname) return false
  path = location.pathname
  since = Date.now()
  began = ''
  return true
}

export const viewPath = (): string => path
export const viewSince = (): number => since
export const seconds = (): number => (Date.now() - since) / 1000
export const viewBegan = (): string => began

/** It began then, unless it did before; whether it is so now. */
export function begin(now: string): boolean {
  if (began) return false
  began = now
  return true
}
