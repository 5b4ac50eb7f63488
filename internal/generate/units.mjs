// Writes core/countdown/units.json: what units of time are called, by language,
// length and plural category, and how a list is joined. The words are those of
// Unicode CLDR, as Node's Intl has them (ECMA-402: NumberFormat with style
// "unit", PluralRules, ListFormat).
const languages =
  'ar bg bn ca cs cy da de el en es et eu fa fi fr ga gl he hi hr hu id is it ja ko lt lv mk mt nb nl pl pt ro ' +
  'ru sk sl sq sr sv th tr uk ur vi zh'.split(' ')
const units = ['year', 'month', 'week', 'day', 'hour', 'minute', 'second']

const samples = [...Array(200).keys(), 1000, 1_000_000]
const pattern = (tag, unit, unitDisplay, n) =>
  new Intl.NumberFormat(tag, { style: 'unit', unit, unitDisplay, useGrouping: false })
    .formatToParts(n)
    .map((p) => (p.type === 'integer' ? '{0}' : p.value))
    .join('')

const out = {}
for (const tag of languages) {
  const rules = new Intl.PluralRules(tag)
  const entry = { full: {}, short: {} }
  for (const [length, display] of [
    ['full', 'long'],
    ['short', 'short'],
  ])
    for (const unit of units) {
      const forms = (entry[length][unit + 's'] = {})
      for (const n of samples) forms[rules.select(n)] ??= pattern(tag, unit, display, n)
    }
  const joins = (items) =>
    new Intl.ListFormat(tag)
      .formatToParts(items)
      .filter((p) => p.type === 'literal')
      .map((p) => p.value)
  entry.and = [...joins(['a', 'b']), ...joins(['a', 'b', 'c'])]
  out[tag] = entry
}
console.log(
  '{\n' +
    Object.entries(out)
      .map(([tag, e]) => `${JSON.stringify(tag)}:${JSON.stringify(e)}`)
      .join(',\n') +
    '\n}',
)
