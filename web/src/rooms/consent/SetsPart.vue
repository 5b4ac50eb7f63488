<script setup lang="ts">
// What do we set? The inventory by purpose, beside it the evidence: what an
// inspection saw before an answer, after accepting, after refusing.
import { computed, ref } from 'vue'
import { api, type ConsentItem, type DetectedItem } from '../../api/client'
import { saveBlob } from '../../instruments/file'
import FileChoice from '../../instruments/FileChoice.vue'
import { mayManage, mayWrite } from '../../instruments/me'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import { kinds, lasting, questionOf, useConsent } from './consent'
import FindingList from './FindingList.vue'
import InspectionPlan from './InspectionPlan.vue'
import ItemEditor from './ItemEditor.vue'

const { room, setup, detail, site, busy, attempt, save, load } = useConsent()
const { refresh } = useViewpoint()

/** Which row is being edited: its place in the inventory, -1 for a new one; undefined for none. */
const editing = ref<number>()
const fresh = ref<ConsentItem>({ kind: 'cookie', name: '' })
const find = ref('')
const inventory = computed(() => setup.value.inventory ?? [])
const zone = computed(() => detail.value!.site.timeZone)
const phases = ['unanswered', 'accepted', 'refused'] as const
const heads = { unanswered: 'Before an answer', accepted: 'All accepted', refused: 'All refused' }

interface Row {
  index: number
  item: ConsentItem
  thing?: DetectedItem
}
const groups = computed(() => {
  const wanted = find.value.toLowerCase()
  const rows = inventory.value
    .map((item, index): Row => ({ index, item, thing: room.value?.things.find((t) => t.item === index) }))
    .filter(({ item: i }) =>
      `${i.name} ${i.by ?? ''} ${i.kind} ${i.host ?? ''} ${Object.values(i.for ?? {}).join(' ')}`
        .toLowerCase()
        .includes(wanted),
    )
  const known = [...(room.value?.purposes ?? []).filter((p) => p.asked || p.id === 'necessary')]
  const of = (id: string | undefined) => rows.filter((r) => (r.item.purpose ?? '') === (id ?? ''))
  return [
    { id: '', name: 'For no purpose yet', rows: of('') },
    ...known.map((p) => ({ id: p.id, name: p.name, rows: of(p.id) })),
  ].filter((g) => g.rows.length)
})
/** Found, and not in the inventory. */
const strangers = computed(() => (room.value?.things ?? []).filter((t) => t.item < 0 && !t.purpose))
const findings = computed(() => (room.value?.findings ?? []).filter((f) => questionOf(f) === 'sets'))
const seen = (t: DetectedItem | undefined, phase: string) => t?.seen.find((s) => s.phase === phase)
const text = (i: ConsentItem) => i.for?.[detail.value!.site.language] ?? Object.values(i.for ?? {})[0] ?? ''

function place(t: DetectedItem) {
  const first = t.seen[0]
  let by = ''
  try {
    by = first?.by ? new URL(first.by).host : ''
  } catch {
    // Not an address: nothing is known of who it is.
  }
  fresh.value = {
    kind: t.kind,
    name: t.name,
    host: t.host,
    by: t.host || (by && !detail.value!.site.origins?.some((o) => o.includes(by)) ? by : undefined),
    lasts: t.lasts || undefined,
  }
  editing.value = -1
}
function begin() {
  fresh.value = { kind: 'cookie', name: '' }
  editing.value = -1
}
async function keep(item: ConsentItem) {
  const list = [...inventory.value]
  if (editing.value === -1) list.push(item)
  else list[editing.value!] = item
  if (await save({ ...setup.value, inventory: list })) editing.value = undefined
}
async function remove(index: number) {
  const before = inventory.value
  if (await save({ ...setup.value, inventory: before.filter((_, i) => i !== index) }, 'Removed.'))
    editing.value = undefined
}
async function csv([chosen]: File[]) {
  const raw = await chosen?.text()
  if (raw === undefined) return
  await attempt('csv', async () => {
    const { items } = await api.readInventory(site.value, raw)
    const key = (i: ConsentItem) => `${i.kind} ${i.name} ${i.host ?? ''}`
    const given = new Map(items.map((i) => [key(i), i]))
    const kept = inventory.value.map((i) => given.get(key(i)) ?? i)
    const added = items.filter((i) => !inventory.value.some((have) => key(have) === key(i)))
    await save(
      { ...setup.value, inventory: [...kept, ...added] },
      `${items.length === 1 ? 'One row' : `${items.length} rows`} read, ` +
        `${added.length === 1 ? 'one' : added.length || 'none'} of them new.`,
    )
  })
}
const out = () =>
  attempt('csv', async () =>
    saveBlob(`${site.value}-inventory.csv`, await api.file(`/api/sites/${site.value}/consent/inventory.csv`)),
  )

const inspect = (what: 'inspect' | 'stop') =>
  attempt(
    'inspect',
    async () => (room.value = await (what === 'stop' ? api.stopInspection(site.value) : api.inspect(site.value))),
  )
const vendor = (on: string | number | boolean) =>
  attempt('vendor', async () => {
    await api.badVendor(!!on)
    await load()
    void refresh()
  })
</script>

<template>
  <div v-if="room && detail" class="sets">
    <section class="ledger" aria-labelledby="inventory">
      <div class="head">
        <h2 id="inventory">The inventory</h2>
        <el-input
          v-if="inventory.length > 5"
          v-model="find"
          class="find"
          placeholder="Find a row"
          aria-label="Find a row"
          clearable
          data-find
        />
        <span v-if="mayManage" class="acts">
          <el-button size="small" @click="begin">Add a row</el-button>
          <FileChoice words="Read rows from CSV" accept=".csv,text/csv" :busy="busy === 'csv'" @files="csv" />
          <button v-if="inventory.length" class="word" @click="out">Save as CSV</button>
        </span>
      </div>
      <ItemEditor v-if="editing === -1" :item="fresh" fresh @save="keep" @close="editing = undefined" />
      <div v-if="strangers.length" class="strangers">
        <h3>Found, and not in the inventory</h3>
        <ul class="plainlist">
          <li v-for="t in strangers" :key="t.kind + t.name + t.host">
            <span
              ><code>{{ t.name }}</code>
              <span class="quiet small"
                >{{ kinds[t.kind] }}{{ t.host ? ` of ${t.host}` : '' }}, {{ lasting(t.lasts) || 'fetched' }}</span
              >
              <b v-if="t.leaks" class="leak">leaks</b><br />
              <span class="quiet small"
                >{{ t.seen[0]?.page }}{{ t.seen[0]?.by ? `, by ${t.seen[0].by}` : '' }}</span
              ></span
            >
            <el-button v-if="mayManage" size="small" @click="place(t)">Say what it is for</el-button>
          </li>
        </ul>
      </div>
      <p v-if="!inventory.length && !strangers.length" class="quiet empty">
        Nothing is listed yet. Inspect the site, and what it sets lies here to be placed; or add rows by hand or from a
        CSV file.
      </p>
      <table v-if="groups.length">
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">From</th>
            <th scope="col">Kept for</th>
            <th v-for="p in phases" :key="p" scope="col" class="phase">{{ heads[p] }}</th>
          </tr>
        </thead>
        <tbody v-for="g in groups" :key="g.id">
          <tr class="group">
            <th colspan="6" scope="colgroup">{{ g.name }}</th>
          </tr>
          <template v-for="r in g.rows" :key="r.index">
            <tr :class="{ open: editing === r.index }">
              <td>
                <button
                  v-if="mayManage"
                  class="word name"
                  :aria-expanded="editing === r.index"
                  @click="editing = editing === r.index ? undefined : r.index"
                >
                  {{ r.item.name }}
                </button>
                <span v-else class="name">{{ r.item.name }}</span>
                <span class="quiet small kind">{{ kinds[r.item.kind] }}</span>
                <span class="for small">{{ text(r.item) }}</span>
              </td>
              <td>{{ r.item.by || 'the site' }}</td>
              <td :class="{ longer: r.thing?.longer }">
                {{ lasting(r.item.lasts)
                }}<template v-if="r.thing?.longer"><br />found: {{ lasting(r.thing.lasts) }}</template>
              </td>
              <td
                v-for="p in phases"
                :key="p"
                class="phase"
                :title="
                  seen(r.thing, p) ? `${seen(r.thing, p)!.page}, by ${seen(r.thing, p)!.by || 'the page'}` : undefined
                "
              >
                <template v-if="!room.run || (room.run.how === 'http' && p !== 'unanswered')"
                  ><span class="quiet">not yet</span></template
                >
                <template v-else-if="seen(r.thing, p)"
                  ><b v-if="p !== 'accepted' && r.item.purpose !== 'necessary'" class="leak">leaks</b
                  ><span v-else class="is">set</span></template
                >
                <span v-else class="quiet">–</span>
              </td>
            </tr>
            <tr v-if="editing === r.index" class="editor">
              <td colspan="6">
                <ItemEditor :item="r.item" @save="keep" @remove="remove(r.index)" @close="editing = undefined" />
              </td>
            </tr>
          </template>
        </tbody>
      </table>
    </section>
    <div class="side">
      <section aria-labelledby="inspection">
        <h2 id="inspection">Inspection</h2>
        <template v-if="room.progress">
          <p role="status">
            {{
              { unanswered: 'Without an answer', accepted: 'All accepted', refused: 'All refused' }[
                room.progress.phase
              ] ?? 'It begins'
            }}:
            {{ room.progress.page }}
          </p>
          <el-progress
            :percentage="Math.round((100 * room.progress.done) / Math.max(1, room.progress.of))"
            aria-label="How far the inspection is"
          />
          <el-button size="small" :loading="busy === 'inspect'" @click="inspect('stop')">Stop it</el-button>
        </template>
        <template v-else>
          <p class="quiet small">
            {{
              room.browser
                ? `A new visitor opens up to ${room.mostPages} pages in a real browser, three times: without ` +
                  `answering, after accepting all, after refusing all. It takes a few minutes, and goes on if ` +
                  `you leave.`
                : 'There is no Chromium on this machine. Pages are read without one: that sees what they set ' +
                  'themselves, not what their scripts do, nor what an answer changes.'
            }}
          </p>
          <p v-if="room.failed" class="leak" role="alert">The last inspection failed: {{ room.failed }}.</p>
          <p v-if="room.run">
            {{ say(room.run.began, zone) }}:
            {{ room.things.length === 1 ? 'one thing' : `${room.things.length} things` }} on
            {{ room.run.pages.length === 1 ? 'one page' : `${room.run.pages.length} pages`
            }}{{ room.run.stopped ? ', stopped before its end' : '' }}.
            <span v-if="room.run.noQuestion && room.run.how === 'browser'" class="leak"
              >No consent notice could be answered.</span
            >
          </p>
          <ul v-if="room.run?.faults?.length" class="plainlist small">
            <li v-for="f in room.run.faults" :key="f.page">
              {{ f.page }} <span class="quiet">{{ f.why }}</span>
            </li>
          </ul>
          <el-button v-if="mayWrite" type="primary" :loading="busy === 'inspect'" @click="inspect('inspect')">{{
            room.run ? 'Inspect again' : 'Inspect the site'
          }}</el-button>
        </template>
        <template v-if="room.differences.length && !room.progress">
          <h3>Since the inspection before</h3>
          <ul class="plainlist small">
            <li v-for="d in room.differences" :key="d.what + d.kind + d.name + d.host">
              <b>{{ d.what }}</b> <code>{{ d.name }}</code>
              <span class="quiet">{{ [d.before, d.now].filter(Boolean).join(' → ') }}</span>
            </li>
          </ul>
        </template>
        <p v-else-if="room.runs.length > 1 && !room.progress" class="quiet small">
          Nothing differs from the inspection before.
        </p>
        <p v-if="room.unseen.length && room.run?.how === 'browser' && !room.progress" class="quiet small">
          Not found this time: {{ room.unseen.map((i) => inventory[i]?.name).join(', ') }}.
        </p>
        <details v-if="room.runs.length > 1 && !room.progress" class="small">
          <summary>Earlier inspections</summary>
          <ul class="plainlist">
            <li v-for="r in room.runs.slice(1)" :key="r.began">
              {{ say(r.began, zone) }}: {{ r.things }} things on {{ r.pages }} pages{{
                r.how === 'http' ? ', read only' : ''
              }}{{ r.stopped ? ', stopped' : '' }}<b v-if="r.leaks" class="leak">, {{ r.leaks }} leaked</b>
            </li>
          </ul>
        </details>
        <InspectionPlan v-if="mayManage" />
      </section>
      <section v-if="room.badVendor !== undefined && mayWrite" aria-labelledby="vendor">
        <h2 id="vendor">The demo’s bad vendor</h2>
        <p class="quiet small">
          This is the demo: an invented firm, Brine Metrics, whose script asks nobody. Let it in, inspect, and it is
          found.
        </p>
        <el-switch
          :model-value="room.badVendor"
          active-text="Its script is on the site"
          aria-label="Its script is on the site"
          @change="vendor"
        />
      </section>
      <section v-if="findings.length" aria-labelledby="set-findings">
        <h2 id="set-findings">What would not hold up in law</h2>
        <FindingList :findings="findings" />
      </section>
    </div>
  </div>
</template>

<style scoped>
.sets {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(280px, 1fr);
  gap: 16px 40px;
  margin-top: 8px;
}
section {
  padding: 10px 0 14px;
  border-top: 1px solid var(--line);
}
.side section p {
  margin: 4px 0 8px;
}
h2 {
  margin-bottom: 4px;
}
h3 {
  margin: 12px 0 4px;
  font-size: 14px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  min-height: 34px;
}
.find {
  width: 180px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  margin-inline-start: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 4px 12px 5px 0;
  border-bottom: 1px solid var(--line);
  text-align: start;
  vertical-align: top;
}
thead th {
  position: sticky;
  top: 0;
  z-index: 1;
  background: var(--sail);
  color: var(--ink-2);
  font: 600 12px/1.3 var(--text);
}
.group th {
  padding-top: 10px;
  font: 650 14px/1.2 var(--head);
  font-stretch: 88%;
}
.name {
  font-family: ui-monospace, monospace;
  font-size: 13px;
  overflow-wrap: anywhere;
}
.kind {
  margin-inline-start: 8px;
}
.for {
  display: block;
  color: var(--ink-2);
}
.phase {
  width: 78px;
}
.leak,
.longer {
  color: var(--alarm);
}
.is {
  color: var(--live);
}
.editor td {
  padding: 0;
}
.open td {
  border-bottom-color: transparent;
}
summary {
  color: var(--sea);
  cursor: pointer;
}
.strangers {
  margin: 8px 0;
  padding: 0 12px 10px;
  border: 1px solid var(--wait);
  border-radius: 3px;
  background: var(--wait-bg);
}
.strangers code,
.strangers .small {
  margin-inline-end: 8px;
}
.strangers li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  justify-content: space-between;
  overflow-wrap: anywhere;
}
.empty {
  max-width: 60ch;
}
@media (max-width: 900px) {
  .sets {
    grid-template-columns: minmax(0, 1fr);
  }
  .side {
    order: -1;
  }
}
@media (max-width: 560px) {
  table,
  tbody,
  tr,
  td,
  .group th {
    display: block;
  }
  thead {
    display: none;
  }
  td {
    padding: 1px 0;
    border: 0;
  }
  td:nth-child(2),
  td:nth-child(3) {
    display: inline-block;
    padding-inline-end: 12px;
  }
  tr {
    padding: 4px 0;
    border-bottom: 1px solid var(--line);
  }
  .phase {
    display: inline-block;
    width: auto;
    padding-inline-end: 12px;
    font-size: 12px;
  }
  .phase:nth-child(4)::before {
    content: 'before: ';
  }
  .phase:nth-child(5)::before {
    content: 'accepted: ';
  }
  .phase:nth-child(6)::before {
    content: 'refused: ';
  }
}
</style>
