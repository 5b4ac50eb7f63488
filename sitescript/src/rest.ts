// When a page has come to rest: loaded, and done with what a framework makes of what the server sent. What stands in
// the page's own tree before that would be in a framework's way.

/** How long no element may come or go, ms: where a framework may still take the page over, and elsewhere. */
const quiet = { app: 1000, plain: 60 }
/** How long after loading a page counts as at rest in any case, ms. */
const most = 3000

/** What pages have that a framework works on. */
const appMarks = 'script[type=module],#app,#root,#__next,#__nuxt,[data-server-rendered],[ng-version],astro-island'
/** What frameworks leave on elements that they have taken over. */
const frameworkKeys = /^(__react(Fiber|Props)|__vue|__vnode|_vnode|__ngContext)/

/** Whether a framework has taken an element over, or its page. */
function isTakenOver(e: Element): boolean {
  for (let at: Element | null = e; at; at = at.parentElement)
    if (Object.keys(at).some((k) => frameworkKeys.test(k))) return true
  return false
}

let resting: Promise<void> | undefined

/** Resolves once the page is at rest. */
export const atRest = (): Promise<void> =>
  (resting ??= new Promise((resolve) => {
    const begin = () => {
      const loaded = Date.now()
      let changed = loaded
      const watch = new MutationObserver(() => (changed = Date.now()))
      watch.observe(document, { childList: true, subtree: true })
      const look = () => {
        const sample = document.querySelector('h1,main,p') ?? document.body
        const wait = document.querySelector(appMarks) && !isTakenOver(sample) ? quiet.app : quiet.plain
        const now = Date.now()
        if (now - changed < wait && now - loaded < most) return setTimeout(look, 30)
        watch.disconnect()
        // Not among the page's own work.
        if ('requestIdleCallback' in window) requestIdleCallback(() => resolve(), { timeout: 200 })
        else setTimeout(resolve)
      }
      setTimeout(look, 30)
    }
    if (document.readyState === 'complete') begin()
    else addEventListener('load', begin)
  }))
