// Writes what the rules of axe-core ask for, in the languages that documents are
// ready in: its own words and the translations that come with it.
import { createRequire } from 'node:module'
import { readFileSync } from 'node:fs'

const require = createRequire(import.meta.url)
const axe = require('axe-core')
const translated = (tag) => JSON.parse(readFileSync(require.resolve(`axe-core/locales/${tag}.json`), 'utf8')).rules
const [de, pl] = ['de', 'pl'].map(translated)
const rules = {}
for (const { ruleId, help } of axe.getRules())
  rules[ruleId] = { en: help, de: de[ruleId]?.help ?? '', pl: pl[ruleId]?.help ?? '' }
console.log(JSON.stringify(rules, null, 1))
