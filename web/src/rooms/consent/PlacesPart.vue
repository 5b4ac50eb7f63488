<script setup lang="ts">
// What does each place want? The table that ships, the site's own rows before
// it, and what it says anew.
import { computed, ref } from 'vue'
import type { PlaceRow, PlaceRule } from '../../api/client'
import { mayManage } from '../../instruments/me'
import { rules, useConsent } from './consent'

const { room, setup, busy, save } = useConsent()
const find = ref('')
const names = new Intl.DisplayNames(['en'], { type: 'region' })
function placeName(code: string): string {
  const [country, region] = code.split('-')
  try {
    return `${names.of(country!) ?? country}${region ? `, ${region}` : ''}`
  } catch {
    return code
  }
}
const rows = computed(() => {
  const wanted = find.value.toLowerCase()
  return (room.value?.rows ?? []).filter((r) =>
    `${r.place} ${placeName(r.place)} ${r.rule} ${r.source ?? ''}`.toLowerCase().includes(wanted),
  )
})
const counts = computed(() =>
  Object.keys(rules)
    .map((rule) => ({ rule, n: (room.value?.rows ?? []).filter((r) => r.rule === rule).length }))
    .filter((c) => c.n),
)

const editing = ref('')
const draft = ref<PlaceRule>({ place: '', rule: 'opt-in' })
function edit(row?: PlaceRow) {
  editing.value = row?.place ?? 'new'
  draft.value = row
    ? {
        place: row.place,
        rule: row.rule,
        signal: row.signal,
        words: row.words,
        source: row.own ? row.source : '',
        date: row.own ? row.date : undefined,
      }
    : { place: '', rule: 'opt-in' }
}
async function keep() {
  const p: Record<string, unknown> = { ...draft.value, place: draft.value.place.toUpperCase().trim() }
  for (const [k, v] of Object.entries(p)) if (v === '' || v === undefined) delete p[k]
  const own = (setup.value.places ?? []).filter((x) => x.place !== p.place)
  if (
    await save({
      ...setup.value,
      places: [...own, p as unknown as PlaceRule].sort((a, b) => a.place.localeCompare(b.place)),
    })
  )
    editing.value = ''
}
const drop = (place: string) =>
  save(
    { ...setup.value, places: setup.value.places?.filter((p) => p.place !== place) },
    'The table’s own row holds again.',
  ).then(() => (editing.value = ''))
const read = () => save({ ...setup.value, tableRead: room.value!.tableDate }, 'Read. The new rows hold as they are.')
</script>

<template>
  <div v-if="room" class="places">
    <section v-if="room.changes.length" class="news" aria-labelledby="news">
      <h2 id="news">The table says something new</h2>
      <p>Until someone has read it, the stricter of old and new holds.</p>
      <ul class="plainlist">
        <li v-for="c in room.changes" :key="c.now.place + c.now.date">
          <b>{{ placeName(c.now.place) }}</b>: {{ c.before.rule ? `${c.before.rule} → ` : 'new, ' }}{{ c.now.rule }}
          <span class="quiet small">{{ c.now.source }}, {{ c.now.date }}</span>
        </li>
      </ul>
      <el-button v-if="mayManage" size="small" type="primary" :loading="busy === 'save'" @click="read"
        >I have read it</el-button
      >
    </section>
    <div class="head">
      <div class="sum">
        {{ counts.map((c) => `${c.n} ${c.rule}`).join(', ') }}. Where nobody knows where a visitor is, the strictest of
        all holds. In a country without a row:
        <el-select
          :model-value="setup.unlisted ?? 'opt-in'"
          size="small"
          class="unlisted"
          aria-label="In a country without a row"
          :disabled="!mayManage"
          @change="(v: PlaceRule['rule']) => save({ ...setup, unlisted: v })"
        >
          <el-option v-for="(label, k) in rules" :key="k" :value="k" :label="label" />
        </el-select>
      </div>
      <span class="acts">
        <el-input
          v-model="find"
          class="find"
          placeholder="Find a place"
          aria-label="Find a place"
          clearable
          data-find
        />
        <el-button v-if="mayManage" size="small" @click="edit()">Add a place</el-button>
      </span>
    </div>
    <p class="quiet small">
      The table ships with the program; each row has its date. Rows that say “from memory” were not checked against the
      current official texts; none is legal advice. Your own rows take precedence. Where a visitor’s country is not
      known the strictest of all rows applies.
    </p>
    <form v-if="editing" class="editor" @submit.prevent="keep" @keydown.esc.stop="editing = ''">
      <label
        >Country or region, as in ISO 3166
        <el-input
          v-model="draft.place"
          required
          placeholder="GB, or GB-SCT"
          :disabled="editing !== 'new'"
          aria-label="Country or region"
        />
      </label>
      <label
        >It wants
        <el-select v-model="draft.rule" aria-label="It wants"
          ><el-option v-for="(label, k) in rules" :key="k" :value="k" :label="label"
        /></el-select>
      </label>
      <label
        >A browser’s privacy signal
        <el-select
          :model-value="draft.signal ?? 'honour'"
          aria-label="A browser’s privacy signal"
          @change="(v: 'honour' | 'ignore') => (draft.signal = v)"
        >
          <el-option value="honour" label="counts there" /><el-option value="ignore" label="does not count there" />
        </el-select>
      </label>
      <label
        >Words its link has to have <el-input v-model="draft.words" aria-label="Words its link has to have"
      /></label>
      <label>The text it follows from <el-input v-model="draft.source" aria-label="The text it follows from" /></label>
      <div class="acts">
        <el-button type="primary" size="small" native-type="submit" :loading="busy === 'save'">Keep it</el-button>
        <el-button size="small" @click="editing = ''">Cancel</el-button>
        <el-button
          v-if="room.rows.find((r) => r.place === editing)?.own"
          size="small"
          text
          type="danger"
          @click="drop(editing)"
          >Remove your row</el-button
        >
      </div>
    </form>
    <table>
      <thead>
        <tr>
          <th scope="col">Place</th>
          <th scope="col">It wants</th>
          <th scope="col">Privacy signal</th>
          <th scope="col">From</th>
          <th scope="col">As of</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.place" :class="{ own: r.own }">
          <td>
            <button v-if="mayManage" class="word" :aria-expanded="editing === r.place" @click="edit(r)">
              {{ placeName(r.place) }}
            </button>
            <template v-else>{{ placeName(r.place) }}</template>
            <span class="quiet small code">{{ r.place }}</span>
          </td>
          <td>
            {{ r.rule }}<span v-if="r.words" class="small quiet"><br />“{{ r.words }}”</span>
          </td>
          <td>{{ r.signal === 'ignore' ? 'does not count' : 'counts' }}</td>
          <td class="small">
            {{ r.source || (r.own ? 'your row' : '')
            }}<span v-if="r.own && r.shipped" class="quiet"
              ><br />instead of {{ r.shipped.rule }}, {{ r.shipped.source }}</span
            >
          </td>
          <td class="small figures">
            {{ r.own ? 'yours' : r.date }}<br v-if="!r.own && !r.checked" /><span
              v-if="!r.own && !r.checked"
              class="quiet"
              >from memory</span
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="!rows.length" class="quiet">
      No place matches “{{ find }}”. <button class="word" @click="find = ''">Show all</button>
    </p>
  </div>
</template>

<style scoped>
.places {
  margin-top: 8px;
  padding-top: 10px;
  border-top: 1px solid var(--line);
}
.news {
  margin-bottom: 12px;
  padding: 8px 12px 10px;
  border: 1px solid var(--wait);
  border-radius: 3px;
  background: var(--wait-bg);
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  align-items: center;
  justify-content: space-between;
}
p {
  margin: 0 0 8px;
  max-width: 110ch;
}
.sum {
  flex: 1 1 600px;
  max-width: none;
}
.code {
  margin-inline-start: 8px;
}
.unlisted {
  width: 290px;
}
.acts {
  display: flex;
  gap: 8px;
  align-items: center;
}
.acts .el-button {
  margin: 0;
}
.find {
  width: 180px;
}
.editor {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 8px 12px;
  margin-bottom: 10px;
  padding: 10px 12px 12px;
  background: var(--chart);
}
.editor label {
  display: grid;
  gap: 2px;
  align-content: start;
  font-size: 12px;
}
.editor .acts {
  align-self: end;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 4px 12px 4px 0;
  border-bottom: 1px solid var(--line);
  text-align: start;
  vertical-align: top;
}
thead th {
  color: var(--ink-2);
  font: 600 12px/1.3 var(--text);
}
.own td {
  background: var(--chart);
}
@media (max-width: 700px) {
  .editor {
    grid-template-columns: minmax(0, 1fr);
  }
  th:nth-child(4),
  td:nth-child(4),
  th:nth-child(5),
  td:nth-child(5) {
    display: none;
  }
}
</style>
