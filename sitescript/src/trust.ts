// Pages may take HTML and scripts by name alone (Trusted Types, W3C): then all of ours go in by one
// policy, called mastflag. Where the page does not allow that, nothing goes in.

export interface Policy {
  createHTML(s: string): string
  createScript(s: string): string
  createScriptURL(s: string): string
}

const same = (s: string) => s
const rules: Policy = { createHTML: same, createScript: same, createScriptURL: same }

/** The page's policy for what is ours; undefined where it takes none. */
export function policy(): Policy | undefined {
  const types = (window as { trustedTypes?: { createPolicy(name: string, rules: Policy): Policy } }).trustedTypes
  try {
    const made = types ? types.createPolicy('mastflag', rules) : rules
    document.createElement('i').innerHTML = made.createHTML('')
    return made
  } catch {
    try {
      // The name is not allowed, and nothing asks for one.
      document.createElement('i').innerHTML = ''
      return rules
    } catch {
      return
    }
  }
}

/** A script that runs once it is in the page, made of one that does not; without one attribute, if that is named. */
export function alive(dead: HTMLScriptElement, by: Policy, without = ''): HTMLScriptElement {
  const live = document.createElement('script')
  for (const { name, value } of dead.attributes) {
    if (name === without) continue
    if (name === 'src') live.src = by.createScriptURL(value)
    else live.setAttribute(name, /^on/i.test(name) ? by.createScript(value) : value)
  }
  // Those with an address run in their order unless they say otherwise.
  live.async = dead.hasAttribute('async')
  live.nonce = dead.nonce
  live.text = by.createScript(dead.text)
  return live
}
