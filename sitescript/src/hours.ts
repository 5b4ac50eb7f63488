// Shows what is offered while it is open, or while it is closed, by the site's clock.
// Loaded where contact lines ask for that.
import type { Bar } from './shapes'
import type { Page, Special } from './ways'

interface Opening {
  days: number[]
  from: string
  until: string
}

/** Whether it is open at a moment in a zone: half-open hours, days from Monday as 1 (ISO 8601). */
export function isOpen(hours: Opening[], at: Date, zone: string): boolean {
  const parts = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    weekday: 'short',
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
  }).formatToParts(at)
  const part = (type: string) => parts.find((p) => p.type === type)!.value
  const day = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'].indexOf(part('weekday')) + 1
  const time = `${part('hour')}:${part('minute')}`
  return hours.some((o) => o.days.includes(day) && o.from <= time && time < o.until)
}

export function start(page: Page): Special {
  let latest: Bar[] = []
  function update(): void {
    for (const bar of latest)
      for (const list of page.rootOf(bar.id)?.querySelectorAll<HTMLElement>('[data-hours]') ?? []) {
        const open = isOpen(JSON.parse(list.dataset.hours!) as Opening[], new Date(page.now()), bar.zone ?? 'UTC')
        for (const line of list.querySelectorAll<HTMLElement>('[data-when]'))
          line.hidden = line.dataset.when !== (open ? 'open' : 'closed')
      }
  }
  setInterval(update, 15_000)
  return {
    placed(bars: Bar[]): void {
      latest = bars
      update()
    },
  }
}
