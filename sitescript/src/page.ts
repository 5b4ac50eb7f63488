// A page: what shows on it is asked for, put there, and followed for as long as it lives. What waits for something on
// this page view is let in when that comes true. Whatever fails here leaves the page unharmed.
import { answeringPartsLoaded, hold, loadAnsweringParts, withAnsweringParts } from './answering'
import { askIn, askLater, beginAsking, isAnswered, lastAsking, send } from './asking'
import { events, takeCalls } from './calls'
import { forgetAsking, lastAsked, now, toLocal } from './clock'
import { restartCountdowns, setEnds, tick } from './countdowns'
import { countVisit, facts, isWanted, leaveView, more, person, setWants, wantsVersion } from './facts'
import type { Memory } from './memory'
import { takeDecision, showing, takeOff } from './notices'
import { attach, detach, isMovedDown, isSettled, place, prepare, rootOf, shadow, stands } from './place'
import { obeyStage, preview, sayPreview, stopPreview, tellStage } from './preview'
import { at, load, settings } from './program'
import { giveBack, patience, remember, setStyle, type Area } from './reserve'
import type { Answer, Bar } from './shapes'
import type { Policy } from './trust'
import * as view from './view'
import { holds, restartWatch, watchFor } from './waits'

/** Begins to work on the page. nonce is what scripts of the page's own carry; policy by what HTML goes into it. */
export function begin(memory: Memory, policy: Policy, nonce: string): void {
  /** Ids of what stands on the page now; and which of it counts as shown on this page view. */
  let standing: string[] = []
  const counted = new Set<string>()
  /** When the answer runs out, by this machine's clock, ms; 0 for never. */
  let until = 0
  /** The visitor wants to see the question again, and has not answered or closed it on this page. */
  let isWantedAgain = false

  /** What the parts of the script get. */
  const page = {
    memory,
    policy,
    nonce,
    key: settings.mastflag!,
    at,
    load,
    now,
    ask,
    facts: () => facts(memory),
    more,
    person,
    events,
    view: view.viewBegan,
    path: view.viewPath,
    address: view.askedAddress,
    quiet: preview,
    showing: () => showing(standing),
    holds,
    put,
    placed,
    drop,
    act,
    rootOf,
    shadow,
    attach,
    detach,
    remember: (css: string) => rememberRoom('edges', css),
    rememberBlocks: (css: string) => rememberRoom('blocks', css),
  }

  async function ask(again?: unknown): Promise<void> {
    const asking = beginAsking()
    const url = view.noteAddress()
    if (view.startNextView()) {
      leaveView()
      isWantedAgain = false
      restartWatch()
      counted.clear()
      restartCountdowns()
    }
    isWantedAgain ||= again === true
    try {
      await countVisit(memory)
      const answer = await send(asking, {
        url,
        facts: page.facts(),
        wants: wantsVersion(),
        memory: memory.visit(view.viewBegan()),
        preview: preview(),
        again: isWantedAgain,
      })
      if (answer) await take(answer, asking)
    } catch (why) {
      if (why === 410 && preview()) return leavePreview(true)
      if (asking === lastAsking() && !isAnswered()) giveBack()
      askLater(asking, why, ask)
    }
  }

  /** Makes the page as it was answered. */
  async function take(answer: Answer, asking: number): Promise<void> {
    if (view.begin(now())) memory.begin(view.viewBegan())
    if (answer.wants && setWants(answer.wants)) return ask()
    if (answer.results?.draw && (await load<typeof import('./results')>('results')).draw(memory)) return ask()
    takeDecision(answer, asking)
    setEnds(answer.ends)
    const held = Object.values(answer.results?.held ?? {})
    await watchFor([...(answer.waiting ?? []).map((w) => w.remainder), ...held], () => put(false))
    loadAnsweringParts(answer, page)
    await prepare([...answer.show, ...(answer.waiting ?? [])], load, page)
    until = answer.until ? toLocal(answer.until) : 0
    put()
    await answeringPartsLoaded()
    put(false)
    hold(answer, page.showing())
    sayPreview(leavePreview)
    if (until) askIn(until - Date.now(), ask)
  }

  /** From now on the page is seen as it is. */
  function leavePreview(isGone?: boolean): void {
    void stopPreview(isGone === true).then(ask)
  }

  /** Makes the page show what is to show; where nothing else has changed, only if that has. */
  function put(anew = true): void {
    const bars = page.showing()
    const ids = bars.map((b) => b.id)
    withAnsweringParts((t) => t.placed?.())
    if (!anew && ids.join() === standing.join()) return
    standing = ids
    place(bars, act)
    if (!bars.some((b) => b.spots)) rememberRoom('blocks', '')
    placed()
  }

  /** Does what follows once what is to show stands on the page, or more of it does. */
  function placed(): void {
    withAnsweringParts((t) => t.placed?.())
    const ids = standing.filter(stands)
    const bars = page.showing()
    if (isSettled())
      tellStage(
        ids,
        bars.filter(isMovedDown).map((b) => b.id),
      )
    for (const b of bars) {
      if (preview() || counted.has(b.id) || !b.keep?.includes('shown') || !ids.includes(b.id)) continue
      counted.add(b.id)
      memory.act(b.id, 'shown', now())
    }
    tick(page)
  }

  /** Remembers the room that is taken on this page, for visitors; where none is, what was kept is given back. */
  function rememberRoom(area: Area, css: string): void {
    if (!css) setStyle(area, '')
    if (!preview()) remember(page.key, area, css, until)
  }

  /** Takes a notice off this page view. */
  function drop(bar: Bar): void {
    takeOff(bar, lastAsking())
    if (bar.hash) isWantedAgain = false
    put()
  }

  /** A press on a notice. */
  function act(bar: Bar, what: string): void {
    withAnsweringParts((t) => t.act(bar, what))
    if (what === 'close') drop(bar)
    if (preview()) return
    if (bar.keep?.includes(what)) memory.act(bar.id, what as 'clicked', now())
    if (what === 'close') {
      memory.act(bar.id, 'closed', now())
      // Another may have the place now.
      void ask()
    }
  }

  /** The page is looked at again, perhaps after a long sleep. */
  const back = () => {
    if (!document.hidden && lastAsked() && Date.now() - lastAsked() > 1000) void ask()
  }
  addEventListener('visibilitychange', back)
  // A page that the browser kept and takes out again asks at once, however short it was away.
  addEventListener('pagehide', forgetAsking)
  addEventListener('pageshow', (e) => e.persisted && back())
  // An app goes on by itself: another path is another page view, another query may decide otherwise.
  const askIfMoved = () => void (lastAsked() && view.hasMoved() && ask())
  const { navigation } = window as { navigation?: EventTarget }
  if (navigation) navigation.addEventListener('navigatesuccess', askIfMoved)
  else setInterval(askIfMoved, 500)
  takeCalls(page.facts, (isOther, event) => {
    withAnsweringParts((t) => t.placed?.())
    const wanted = !!event && isWanted(`event.${event}`)
    if (wanted) memory.event(event, now())
    if (lastAsked() && (wanted || isOther)) void ask()
  })
  obeyStage(ask)
  if (document.body) void ask()
  else addEventListener('DOMContentLoaded', ask)
  setTimeout(() => isAnswered() || giveBack(), patience)
}
