// Two short sounds, made here: a bell and a knock. Heard once for each notice, only after the
// visitor has done something on the page. Loaded where a notice has one.
import type { Bar } from './shapes'
import type { Page, Special } from './ways'

/** Tones, each with its height in Hz, when it begins, how long it lasts, s, and how it sounds. */
const sounds: Record<string, [number, number, number, OscillatorType][]> = {
  bell: [
    [880, 0, 0.9, 'sine'],
    [1320, 0.02, 0.6, 'sine'],
  ],
  knock: [
    [160, 0, 0.08, 'triangle'],
    [160, 0.16, 0.08, 'triangle'],
  ],
}

/** Plays a sound, quietly, if the browser lets it; whether it did. */
export function play(name: string): boolean {
  const active = (navigator as { userActivation?: { hasBeenActive: boolean } }).userActivation
  if (active && !active.hasBeenActive) return false
  try {
    const audio = new AudioContext()
    let end = 0
    for (const [height, at, long, type] of sounds[name] ?? []) {
      const tone = audio.createOscillator()
      const level = audio.createGain()
      tone.type = type
      tone.frequency.value = height
      level.gain.setValueAtTime(0.08, audio.currentTime + at)
      level.gain.exponentialRampToValueAtTime(0.0001, audio.currentTime + at + long)
      tone.connect(level).connect(audio.destination)
      tone.start(audio.currentTime + at)
      tone.stop(audio.currentTime + at + long)
      end = Math.max(end, at + long)
    }
    setTimeout(() => void audio.close(), end * 1000 + 200)
    return true
  } catch {
    return false
  }
}

export function start(page: Page): Special {
  const played = new Set<string>()
  let waiting: Bar[] = []
  const playWaiting = () => {
    for (const bar of waiting) if (play(bar.sound!)) played.add(bar.id)
    waiting = waiting.filter((b) => !played.has(b.id))
  }
  for (const what of ['pointerdown', 'keydown']) addEventListener(what, () => setTimeout(playWaiting))
  return {
    placed(bars: Bar[]): void {
      // One in the tab title sounds when it is shown there.
      waiting = page.quiet() ? [] : bars.filter((b) => b.sound && !b.tab && !played.has(b.id))
      playWaiting()
    },
  }
}
