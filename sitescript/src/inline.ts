// The line of the snippet that stands in the page itself: it keeps the room
// free before the page is first drawn, and takes the site's calls. The server puts the site's key in.
import { reserve } from './reserve'

try {
  // What the site tells before the script is there waits in a queue.
  const page = window as unknown as { mastflag?: object }
  const q: unknown[] = []
  page.mastflag ??= {
    q,
    person: (traits: object) => q.push(['person', traits]),
    event: (...told: unknown[]) => q.push(['event', ...told]),
  }
  reserve('__KEY__')
} catch {
  // Whatever fails here, the page goes on as it would without.
}
