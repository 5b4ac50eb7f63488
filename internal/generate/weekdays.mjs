// Writes core/render/weekdays.json: what the days of the week are called in short,
// Monday first, by language. The words are those of Unicode CLDR, as Node's Intl
// has them (ECMA-402: DateTimeFormat).
import units from '../../core/countdown/units.json' with { type: 'json' }

// 1 January 2024 was a Monday.
const days = [...Array(7).keys()].map((d) => new Date(Date.UTC(2024, 0, 1 + d)))
const lines = Object.keys(units).map((tag) => {
  const names = new Intl.DateTimeFormat(tag, { weekday: 'short', timeZone: 'UTC' })
  return `${JSON.stringify(tag)}:${JSON.stringify(days.map((d) => names.format(d)))}`
})
console.log('{\n' + lines.join(',\n') + '\n}')
