// Takes what is filled in: checks it, sends it, and keeps it in the form where that fails.
// Loaded on pages that carry a form.
import type { Page, Special } from './ways'
import type { Bar } from './shapes'
import { newID } from './sending'

const tooEarly = 425
const askFirst = 428

type Field = HTMLInputElement | HTMLTextAreaElement | HTMLSelectElement

/** Where browsers say what is wrong with a field, and what is said for it. */
const flaws = [
  ['tooLong', 'too-long'],
  ['rangeUnderflow', 'out-of-range'],
  ['rangeOverflow', 'out-of-range'],
] as const
/** What is said where nothing was given, by the type of the field. */
const missing: Record<string, string> = { checkbox: 'not-ticked', radio: 'no-option', 'select-one': 'no-option' }
const kinds: Record<string, string> = { email: 'no-email', tel: 'no-telephone', number: 'no-number', date: 'no-date' }

export function start(page: Page): Special {
  const address = page.at('forms')
  const listening = new WeakSet<Element>()

  function listen(bar: Bar, root: ShadowRoot): void {
    const form = root.querySelector('form')
    if (!form || listening.has(form)) return
    listening.add(form)
    const words = bar.form!.words
    const status = form.querySelector<HTMLElement>('.told')
    const fields = [...form.querySelectorAll<Field>('.field [name]')]
    /** Lets this page send, a little after it was given. */
    let mark: Promise<string> | undefined
    const marked = () =>
      (mark ??= fetch(address, { credentials: 'omit' }).then((r) => {
        if (!r.ok) throw r
        return r.text()
      }))
    /** The number of what is sent: the same until it has arrived, or something else is filled in. */
    let id = ''
    let sending = false

    const showFlaw = (name: string, what: string) => {
      const at = root.getElementById(`w-${name}`)
      if (at) at.textContent = words[what] ?? what
      for (const f of fields) if (f.name === name) f.toggleAttribute('aria-invalid', !!what)
      for (const f of fields) if (f.name === name && what) f.setAttribute('aria-invalid', 'true')
    }
    const flaw = (f: Field): string => {
      const v = f.validity
      if (v.valid) return ''
      if (v.valueMissing) return missing[f.type] ?? 'missing-answer'
      return flaws.find(([is]) => v[is])?.[1] ?? kinds[f.type] ?? 'not-understood'
    }
    const check = (f: Field) => {
      const what = flaw(f)
      showFlaw(f.name, what)
      return !what
    }
    const several = (f: Field) => f.type === 'checkbox' && fields.filter((g) => g.name === f.name).length > 1

    /** What was filled in, by field. */
    function values(): Record<string, unknown> {
      const out: Record<string, unknown> = {}
      for (const f of fields) {
        if (!(f instanceof HTMLInputElement) || !/^(checkbox|radio)$/.test(f.type)) out[f.name] = f.value
        else if (f.closest('fieldset')) {
          if (f.type === 'checkbox') out[f.name] ??= []
          if (f.checked) out[f.name] = f.type === 'radio' ? f.value : [...(out[f.name] as string[]), f.value]
        } else out[f.name] = f.checked
      }
      return out
    }

    async function send(): Promise<void> {
      sending = true
      id ||= newID()
      if (status) status.textContent = words.sending!
      const body = JSON.stringify({
        id,
        hash: bar.form!.hash,
        values: values(),
        url: page.address(),
        facts: page.facts(),
        trap: form!.querySelector<HTMLInputElement>('.trap input')!.value,
      })
      try {
        // Twice a mark may be too young or too old; what else is refused would be again.
        for (let tries = 0; tries < 4; tries++) {
          const reply = await fetch(`${address}?mark=${await marked()}`, {
            method: 'POST',
            credentials: 'omit',
            body,
          })
          if (reply.ok) return succeed()
          if (reply.status === askFirst) mark = undefined
          else if (reply.status === tooEarly) await new Promise((on) => setTimeout(on, 2100))
          else if (reply.status === 422) {
            const { faults } = (await reply.json()) as { faults?: { pointer: string; what: string }[] }
            for (const f of faults ?? []) showFlaw(f.pointer.slice(1), f.what)
            if (faults?.length) id = ''
            endSending(faults?.length ? '' : words.unsent!)
            if (faults?.length) focusFirstFlaw()
            return
          } else break
        }
      } catch {
        mark = undefined
      }
      endSending(words.unsent!)
    }
    function endSending(what: string): void {
      sending = false
      if (status) status.textContent = what
    }
    const focusFirstFlaw = () => root.querySelector<HTMLElement>('[aria-invalid=true]')?.focus()

    function succeed(): void {
      sending = false
      id = ''
      if (status) status.textContent = ''
      for (const e of root.querySelectorAll<HTMLElement>('bdi[data-of]'))
        e.textContent = fields.find((f) => f.name === e.dataset.of)?.value ?? ''
      const thanks = form!.querySelector<HTMLElement>('.sent')!
      thanks.hidden = false
      form!.classList.add('done')
      thanks.focus()
      form!.reset()
      if (page.quiet()) return
      page.memory.act(bar.id, 'answered', page.now())
      page.act(bar, 'sent')
      const { then, to } = bar.form!
      if (then === 'page') location.assign(to!)
      if (then === 'file') {
        const link = document.createElement('a')
        link.href = to!
        link.download = ''
        link.click()
      }
      if (then === 'notice') void page.ask()
    }

    form.addEventListener('input', (e) => {
      id = ''
      // Asked for early, it is old enough by the time the form is filled in.
      if (!page.quiet()) void marked().catch(() => (mark = undefined))
      const f = e.target as Field
      if (f.getAttribute('aria-invalid')) check(f)
    })
    form.addEventListener('focusout', (e) => {
      const f = e.target as Field
      if (fields.includes(f) && f.value && !several(f)) check(f)
    })
    form.addEventListener('submit', (e) => {
      e.preventDefault()
      if (sending) return
      const wrong = fields.filter((f) => !check(f))
      if (wrong.length) return wrong[0]!.focus()
      if (page.quiet()) return succeed()
      void send()
    })
    if (form.dataset.sent) form.requestSubmit()
    // Escape in a field closes the notice as elsewhere in it; Enter in a list or a text is theirs.
    addEventListener('online', () => {
      if (id && status?.textContent === words.unsent && !sending) void send()
    })
  }

  return {
    placed(bars: Bar[]): void {
      for (const bar of bars) {
        const root = bar.form && page.rootOf(bar.id)
        if (root) listen(bar, root)
      }
    },
  }
}
