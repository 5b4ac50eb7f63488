// The line of the snippet that stands in the page itself: it keeps the room
// free before the page is first drawn, and takes the site's calls. The server puts the site's key in.
import { giveBack, patience, reserve } from './reserve'

try {
  // What the site tells before the script is there waits in a queue.
  const page = window as unknown as { mastflag?: object }
  if (!page.mastflag) {
    const q: unknown[] = []
    const waiting = (page.mastflag = {
      q,
      person: (traits: object) => q.push(['person', traits]),
      event: (...of: unknown[]) => q.push(['event', ...of]),
      /** The script does not come: the page is to be as it would without. */
      giveUp: () => page.mastflag === waiting && giveBack(),
    })
    reserve('__KEY__')
    setTimeout(waiting.giveUp, patience)
  }
} catch {
  // Whatever fails here, the page goes on as it would without.
}
