// The script that sites load: asks the server what shows on this page view, puts it there, listens, and asks again when
// the answer has run out.
import { setWants } from './facts'
import { remembered } from './memory'
import { begin } from './page'
import { setPolicy } from './place'
import { takeToken } from './preview'
import { connect, load } from './program'
import { giveBack } from './reserve'
import { createPolicy } from './trust'

/**
 * Begins to work on the page: for a site whose key is settings.mastflag, with the server at an origin. The settings say
 * besides where each part of the script lies, and what else the server knows of the site; nonce is what scripts of the
 * page's own carry.
 */
export function start(server: string, settings: Record<string, string>, nonce: string): void {
  const policy = createPolicy()
  if (!policy) return giveBack()
  setPolicy(policy)
  connect(server, settings)
  setWants(settings.wants ?? '')
  const memory = remembered(settings.mastflag!)
  const go = () => begin(memory, policy, nonce)
  // A preview link carries its token in the address; what a domain shares is read first.
  const first =
    takeToken() ??
    (settings.domains &&
      load<typeof import('./shared')>('shared').then((m) => {
        const to = m.boxes(settings.domains!)
        if (to) memory.move(to)
      }))
  if (first) void first.then(go, go)
  else go()
}
