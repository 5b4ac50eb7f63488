// The line of the snippet that stands in the page itself, with the guard in it. The server puts in the site's key, its
// own host and what becomes of what is held where nobody answers.
import { guard } from './guard'
import { patience, sheets } from './reserve'

try {
  const page = sheets()
  if (!page.guard) {
    page.guard = guard('__KEY__', '__HOST__', '__STRICT__')
    setTimeout(page.guard.giveUp, patience)
  }
} catch {
  // Whatever fails here, the page goes on as it would without.
}
import './inline'
