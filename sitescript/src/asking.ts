// How the server is asked what shows on this page, and when it is asked again. What was asked later may be answered
// sooner: an answer that another has overtaken is not taken.
import { noteAsking, setClock } from './clock'
import { complete, tags } from './held'
import { at } from './program'
import type { Answer } from './shapes'

/** How often the server was asked, and which asking the page is as of. */
let askings = 0
let latest = 0
/** How often in a row the server could not be had. */
let failures = 0
let timer = 0

/** The number of the last asking. */
export const lastAsking = (): number => askings
/** Whether the server has answered on this page. */
export const isAnswered = (): boolean => latest > 0

/** Begins an asking; its number. */
export function beginAsking(): number {
  clearTimeout(timer)
  noteAsking()
  return ++askings
}

/** Asks; undefined where another asking has overtaken this one. Throws the status that it is refused with. */
export async function send(asking: number, body: object): Promise<Answer | undefined> {
  const sent = Date.now()
  // A body of plain text needs no preflight request.
  const reply = await fetch(at('d'), {
    method: 'POST',
    credentials: 'omit',
    signal: AbortSignal.timeout(20_000),
    body: JSON.stringify({ ...body, have: tags() }),
  })
  if (!reply.ok) throw reply.status
  const answer = (await reply.json()) as Answer
  if (asking < latest) return
  latest = asking
  failures = 0
  setClock(sent, answer.at)
  complete(answer)
  return answer
}

/** Plans to ask again in so long, ms. */
export function askIn(ms: number, ask: () => void): void {
  clearTimeout(timer)
  timer = setTimeout(ask, Math.min(Math.max(ms, 0) + 20, 2e9))
}

/**
 * An asking has failed: the server is not there, or cannot answer now. It is asked later and later, unless it was asked
 * again meanwhile. What it refuses it would refuse again.
 */
export function askLater(asking: number, why: unknown, ask: () => void): void {
  const isRefused = typeof why === 'number' && why < 500 && why !== 408 && why !== 429
  if (asking === askings && !isRefused) askIn(60_000 * Math.min(2 ** failures++, 10) * (1 + Math.random() / 4), ask)
}
