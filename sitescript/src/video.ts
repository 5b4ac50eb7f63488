// Plays videos: on a press, or by themselves after the first act on the page; a frame of
// another host once its purpose is agreed to. Loaded where a notice has one.
import type { Bar } from './shapes'
import type { Page, Special } from './ways'

interface Film {
  file?: string
  frame?: string
  purpose?: string
  bySelf?: boolean
  title?: string
  language?: string
  cues?: { from: number; until: number; text: string }[]
}

const granted = (purpose: string) =>
  !!(window as { mastflag?: { consent?: { granted(p: string): boolean } } }).mastflag?.consent?.granted(purpose)

export function start(page: Page): Special {
  const listening = new WeakSet<Element>()
  const waiting: (() => void)[] = []

  function show(button: HTMLElement, film: Film, muted: boolean): void {
    if (!button.isConnected) return
    if (film.frame) {
      const held = button.parentElement!.querySelector<HTMLElement>('.held')
      if (film.purpose && !granted(film.purpose)) {
        if (held) held.hidden = false
        button.hidden = true
        return
      }
      held?.remove()
      const frame = document.createElement('iframe')
      frame.src = film.frame
      frame.title = film.title ?? ''
      frame.allow = 'autoplay; fullscreen; picture-in-picture'
      frame.allowFullscreen = true
      button.replaceWith(frame)
      frame.focus()
      return
    }
    const video = document.createElement('video')
    video.controls = video.playsInline = true
    video.muted = muted
    video.src = film.file!
    if (film.title) video.setAttribute('aria-label', film.title)
    if (film.cues?.length) {
      const track = video.addTextTrack('captions', film.language, film.language)
      for (const c of film.cues) track.addCue(new VTTCue(c.from, c.until, c.text))
      track.mode = 'showing'
    }
    button.replaceWith(video)
    void video.play().catch(() => {})
    if (!muted) video.focus()
  }

  function listen(root: ShadowRoot): void {
    for (const button of root.querySelectorAll<HTMLElement>('.play')) {
      if (listening.has(button)) continue
      listening.add(button)
      const film = JSON.parse(button.dataset.film!) as Film
      button.addEventListener('click', (e) => {
        e.stopPropagation()
        show(button, film, false)
      })
      if (!film.bySelf || page.quiet()) continue
      const unwanted =
        '(max-width:639px),(pointer:coarse),(prefers-reduced-motion:reduce),(prefers-reduced-data:reduce)'
      const { connection } = navigator as { connection?: { saveData?: boolean } }
      if (matchMedia(unwanted).matches || connection?.saveData) continue
      waiting.push(() => show(button, film, true))
    }
  }
  const first = () => {
    for (const go of waiting.splice(0)) go()
  }
  for (const what of ['pointerdown', 'keydown']) addEventListener(what, first)
  // What waited for a purpose is offered again once it is agreed to.
  document.addEventListener('mastflag:consent', () => {
    for (const bar of latest)
      for (const button of page.rootOf(bar.id)?.querySelectorAll<HTMLElement>('.play[hidden]') ?? []) {
        const film = JSON.parse(button.dataset.film!) as Film
        if (!granted(film.purpose!)) continue
        button.hidden = false
        button.parentElement!.querySelector<HTMLElement>('.held')!.hidden = true
      }
  })
  let latest: Bar[] = []

  return {
    placed(bars: Bar[]): void {
      latest = bars
      for (const bar of bars) {
        const root = page.rootOf(bar.id)
        if (root) listen(root)
      }
    },
  }
}
