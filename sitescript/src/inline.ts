// The line of the snippet that stands in the page itself: it keeps the room
// free before the page is first drawn. The server puts the site's key in.
import { reserve } from './reserve'

try {
  reserve('__KEY__')
} catch {
  // Whatever fails here, the page goes on as it would without.
}
