// The script that sites load: asks the server what shows on this page view,
// puts it there, listens, and asks again when the answer has run out. It
// decides nothing itself, and whatever fails in it leaves the page unharmed.
import { Memory } from './memory'
import { place, type Bar } from './place'
import * as preview from './preview'
import { remember } from './reserve'

interface Answer {
  /** ms since 1970, by the server's clock. */
  at: number
  /** When the answer runs out; null for never. */
  until: number | null
  show: Bar[]
  /** When the preview ends, if this is one. */
  preview?: number
}

function start(): void {
  const own = document.currentScript as HTMLScriptElement
  const server = new URL(own.src).origin
  const key = own.dataset.mastflag as string
  const memory = new Memory(key)
  const tokenName = `mastflag.${key}.preview`
  const framed = parent !== window
  let token = preview.token(tokenName)
  /** The server's clock minus this machine's, ms. */
  let offset = 0
  let view = ''
  let path = location.pathname
  let shown: Bar[] = []
  let until = 0
  let timer = 0
  let asked = 0

  const now = () => new Date(Date.now() + offset).toISOString()

  async function ask(): Promise<void> {
    clearTimeout(timer)
    asked = Date.now()
    if (path !== location.pathname) {
      path = location.pathname
      view = ''
    }
    try {
      // A body of plain text needs no preflight request.
      const reply = await fetch(`${server}/d/${key}`, {
        method: 'POST',
        credentials: 'omit',
        body: JSON.stringify({
          url: location.href.split('#')[0],
          facts: { 'locale.zone': Intl.DateTimeFormat().resolvedOptions().timeZone },
          memory: token ? undefined : memory.visit(view),
          preview: token || undefined,
        }),
      })
      if (reply.status === 410 && token) {
        stopPreview('This preview link no longer works. You see the site as it is.')
        return
      }
      if (!reply.ok) return
      const answer = (await reply.json()) as Answer
      offset = answer.at - Date.now()
      if (!view) {
        view = now()
        memory.begin(view)
      }
      shown = answer.show
      until = answer.until ? answer.until - offset : 0
      put()
      if (token && !framed) preview.say('A preview: visitors do not see this yet.', () => stopPreview(''))
      if (until) again(until - Date.now())
    } catch {
      // The server is not there: the page stays as it is, and asks again later.
      again(60_000)
    }
  }

  function again(ms: number): void {
    timer = setTimeout(ask, Math.min(Math.max(ms, 0) + 20, 2 ** 31 - 1))
  }

  function stopPreview(why: string): void {
    token = ''
    preview.keep(tokenName, '')
    preview.say(why, () => preview.say('', () => {}))
    void ask()
  }

  function put(): void {
    const height = place(shown, act)
    if (!token) remember(key, height, until)
    if (token && framed) parent.postMessage({ mastflag: 'placed', ids: shown.map((b) => b.id) }, server)
  }

  function act(bar: Bar, what: string, target: HTMLElement): void {
    if (what === 'close') {
      if (!token) memory.close(bar.id, now())
      shown = shown.filter((b) => b !== bar)
      put()
      // Another may have the place now.
      if (!token) void ask()
    }
    if (what === 'more') {
      const root = target.getRootNode() as ShadowRoot
      const longer = root.getElementById('longer') as HTMLElement
      longer.hidden = !longer.hidden
      target.setAttribute('aria-expanded', String(!longer.hidden))
    }
  }

  /** The page is looked at again, perhaps after a long sleep. */
  const back = () => {
    if (!document.hidden && Date.now() - asked > 1000) void ask()
  }
  document.addEventListener('visibilitychange', back)
  addEventListener('pageshow', (e) => e.persisted && back())
  addEventListener('popstate', back)
  ;(window as { navigation?: EventTarget }).navigation?.addEventListener('navigatesuccess', () => path !== location.pathname && ask())
  if (token && framed) addEventListener('message', (e) => e.origin === server && e.data?.mastflag === 'refresh' && ask())

  if (document.body) void ask()
  else document.addEventListener('DOMContentLoaded', () => ask())
}

try {
  start()
} catch {
  // The page goes on as it would without.
}
