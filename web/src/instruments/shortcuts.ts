// Single-key shortcuts: which key does what, kept in this browser. They can be
// switched off and given other keys (WCAG 2.2 §2.1.4).
import { useStorage } from '@vueuse/core'
import { computed } from 'vue'

/** What a key can do. What begins with `g` and a letter goes to a room. */
export const commands = [
  { name: 'new', key: 'n', label: 'New notice' },
  { name: 'find', key: '/', label: 'Find in this room, or a page to look from' },
  { name: 'go', key: 'g', label: 'Go to a room; its letter follows' },
  { name: 'visitor', key: 'p', label: 'Look as another visitor' },
  { name: 'back', key: '[', label: 'Step the moment back to the previous change' },
  { name: 'on', key: ']', label: 'Step the moment on to the next change' },
  { name: 'help', key: '?', label: 'This help' },
] as const
export type Command = (typeof commands)[number]['name']

const kept = useStorage<{ off: boolean; keys: Partial<Record<Command, string>> }>('mastflag.shortcuts', {
  off: false,
  keys: {},
})

export const shortcutsOff = computed({ get: () => kept.value.off, set: (off) => (kept.value = { ...kept.value, off }) })
export const keyOf = (name: Command): string => kept.value.keys[name] ?? commands.find((c) => c.name === name)!.key

/** Gives a command another key, or its first one for ''; returns why not, '' if it was done. */
export function setKey(name: Command, key: string): string {
  const keys = { ...kept.value.keys }
  if (key === '') delete keys[name]
  else if ([...key].length !== 1 || key === ' ') return 'A shortcut is one letter, digit or sign.'
  else {
    const other = commands.find((c) => c.name !== name && keyOf(c.name) === key)
    if (other) return `“${key}” is taken: ${other.label.toLowerCase()}.`
    keys[name] = key
  }
  kept.value = { ...kept.value, keys }
  return ''
}

/** Whether a key goes into a text, in an editor’s own shadow root too. */
export function intoText(e: Event): boolean {
  const at = e.composedPath()[0] as HTMLElement | undefined
  return !!at && (at.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(at.tagName ?? ''))
}

/** The command that a press of a key alone means; undefined while something is written, or where shortcuts are off. */
export function commandOf(e: KeyboardEvent): Command | undefined {
  if (kept.value.off || e.ctrlKey || e.metaKey || e.altKey || intoText(e)) return undefined
  return commands.find((c) => keyOf(c.name) === e.key)?.name
}
