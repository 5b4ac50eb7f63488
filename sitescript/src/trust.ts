// Pages may take HTML and scripts by name alone (Trusted Types, W3C): then all of ours go in by one
// policy, called mastflag. Where the page does not allow that, nothing goes in.

export interface Policy {
  createHTML(s: string): string
  createScript(s: string): string
  createScriptURL(s: string): string
}

const same = (s: string) => s
const rules: Policy = { createHTML: same, createScript: same, createScriptURL: same }

/** Makes the page's policy for what is ours; undefined where it takes none. */
export function createPolicy(): Policy | undefined {
  const types = (window as { trustedTypes?: { createPolicy(name: string, rules: Policy): Policy } }).trustedTypes
  try {
    const policy = types ? types.createPolicy('mastflag', rules) : rules
    document.createElement('i').innerHTML = policy.createHTML('')
    return policy
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

/** A copy of a script that runs once it is in the page, without one of its attributes if that is named. */
export function runnable(source: HTMLScriptElement, policy: Policy, without = ''): HTMLScriptElement {
  const script = document.createElement('script')
  for (const { name, value } of source.attributes) {
    if (name === without) continue
    if (name === 'src') script.src = policy.createScriptURL(value)
    else script.setAttribute(name, /^on/i.test(name) ? policy.createScript(value) : value)
  }
  // Those with an address run in their order unless they say otherwise.
  script.async = source.hasAttribute('async')
  script.nonce = source.nonce
  script.text = policy.createScript(source.text)
  return script
}
