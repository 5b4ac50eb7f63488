// The server's clock, by which everything is decided, as this machine can tell it.

/** It minus this machine's, ms. */
let offset = 0
/** When the server was last asked, by this machine's clock and by its steady one, which nobody sets, ms. */
let asked = 0
let steady = 0

export const clock = (): number => Date.now() + offset
/** What an instant of the server's is by this machine's clock, ms. */
export const toLocal = (at: number): number => at - offset
export const now = (): string => new Date(clock()).toISOString()

/** The server is asked now. */
export function noteAsking(): void {
  asked = Date.now()
  steady = performance.now()
}

/** What was asked at a moment of this machine's clock was answered at one of the server's, ms since 1970. */
export function setClock(sent: number, at: number): void {
  offset = at - (sent + Date.now()) / 2 // it was so in the middle of the way there and back
}

/** When the server was last asked, by this machine's clock, ms; 0 if never. */
export const lastAsked = (): number => asked
/** Has the server asked the next time there is an occasion, however soon that is. */
export function forgetAsking(): void {
  asked &&= 1
}

/** Whether one of this machine's clocks was set since, or it has slept. */
export const wasSet = (): boolean => Math.abs(Date.now() - asked - performance.now() + steady) > 3e3
