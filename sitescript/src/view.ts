// The page view: one address, from when the visitor came to it. An app goes on to another one by itself.
import { settings } from './program'

/** The address that was last asked about; of its fragment none but a route, where the site has those. */
let asked = ''
let path = ''
/** When it began, by this machine's clock, ms; and by the server's, in RFC 3339, once that has answered. */
let since = Date.now()
let began = ''

/** The address of the page; and its path, with its route: /fares, /#/fares. */
const address = (): string => (settings.routes ? /^[^#]*(#!?\/[^#]*)?/ : /^[^#]*/).exec(location.href)![0]
const pathNow = (): string => location.pathname + ((settings.routes && /^#!?\/[^?#]+/.exec(location.hash)?.[0]) || '')

/** The address of the page, which is asked about now. */
export function noteAddress(): string {
  return (asked = address())
}

/** The address that was last asked about. */
export const askedAddress = (): string => asked

/** Whether the page has gone on to another address since the server was last asked. */
export const hasMoved = (): boolean => asked !== address()

/** Begins another page view where the path is another; whether it did. */
export function startNextView(): boolean {
  const next = pathNow()
  if (viewPath() === next) return false
  path = next
  since = Date.now()
  began = ''
  return true
}

export const viewPath = (): string => (path ||= pathNow())
export const viewSince = (): number => since
export const seconds = (): number => (Date.now() - since) / 1000
export const viewBegan = (): string => began

/** It began then, unless it did before; whether it is so now. */
export function begin(now: string): boolean {
  if (began) return false
  began = now
  return true
}
