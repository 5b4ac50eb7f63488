<script setup lang="ts">
// What visitors filled in: found, read, exported, erased, and how it is passed on.
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, type ContactQuery, type ContactList, type ContactRow, type Delivery } from '../../api/client'
import { reason, useAttempts } from '../../instruments/attempts'
import { saveBlob } from '../../instruments/file'
import { latest } from '../../instruments/latest'
import { mayManage } from '../../instruments/me'
import { nameOf } from '../../instruments/languages'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'
import PassingPart from './PassingPart.vue'

const { site, view } = useViewpoint()
const { error, busy, attempt } = useAttempts()
const list = ref<ContactList>()
const rows = ref<ContactRow[]>([])
const notice = ref('')
const field = ref('')
const find = ref('')
const days = ref<[string, string] | null>(null)
const query = computed<ContactQuery>(() => {
  const out: ContactQuery = {}
  if (notice.value) out.notice = notice.value
  if (find.value.trim()) out.find = find.value.trim()
  if (field.value && find.value.trim()) out.field = field.value
  if (days.value) [out.from, out.until] = days.value
  return out
})
const filtered = computed(() => Object.keys(query.value).length > 0)
const load = latest(
  () => api.contacts(site.value, query.value),
  (l) => {
    list.value = l
    rows.value = l.contacts
  },
  (e) => (error.value = reason(e)),
)
const reload = () => attempt('list', async () => void (await load()))
void reload()
watch([notice, field, days], reload)
watch(find, useDebounceFn(reload, 250))

const loadMore = () =>
  attempt('more', async () => {
    const asked = query.value
    const next = await api.contacts(site.value, { ...asked, after: rows.value.at(-1)!.id })
    // Something else may be asked for by now.
    if (asked === query.value) rows.value = [...rows.value, ...next.contacts]
  })
const exportAs = (kind: 'csv' | 'jsonl' | 'vcf') =>
  attempt(kind, async () =>
    saveBlob(
      `${site.value}-contacts.${kind}`,
      await api.file(
        `/api/sites/${site.value}/contacts.${kind}?${new URLSearchParams(query.value as Record<string, string>)}`,
      ),
    ),
  )

/** The contact whose erasing is to be confirmed. */
const erasing = ref('')
const erase = (id: string) =>
  attempt(
    'erase',
    async () => {
      await api.eraseContacts(site.value, [id])
      erasing.value = ''
      await load()
    },
    'Erased.',
  )
const retry = (id: number) =>
  attempt('retry', async () => {
    await api.retryDelivery(site.value, id)
    await load()
  })

const when = (at?: string | null) => (at && view.value ? say(at, view.value.zone) : '')
const noticeName = (id: string) => list.value?.notices.find((n) => n.id === id)?.name ?? id
const fieldName = (c: ContactRow, a: ContactRow['answers'][number]) =>
  a.kind === 'agreement' ? 'Agreed to' : (c.labels?.[a.field] ?? a.field)
const answerText = (c: ContactRow, a: ContactRow['answers'][number]) =>
  a.kind === 'agreement'
    ? (c.agreed?.[a.field] ?? '')
    : a.values.map((v) => (/^choice/.test(a.kind) && c.labels?.[`${a.field}/${v}`]) || v).join(', ')
/** Whom it is from, as far as that was asked: an address or a number; else what was written, or chosen. */
function headline(c: ContactRow): string {
  for (const kind of ['email', 'telephone', 'text', 'long', 'number', 'date', 'choice', 'choices']) {
    const answer = c.answers.find((a) => a.kind === kind)
    if (answer) return answerText(c, answer)
  }
  return 'no answer'
}
const kinds = { confirm: 'The letter that confirms', mail: 'By mail', web: 'To the web address' }
function deliveryText(d: Delivery): string {
  if (d.state === 'done') return `arrived ${when(d.ended)}`
  if (d.state === 'given-up') return `given up after ${d.tries === 1 ? 'one try' : `${d.tries} tries`}: ${d.why}`
  return d.tries
    ? `${d.why}; tried ${d.tries === 1 ? 'once' : `${d.tries} times`}, the next time ${when(d.next)}`
    : 'on its way'
}
const undelivered = (c: ContactRow) => c.deliveries.filter((d) => d.state !== 'done' && d.tries > 0).length
</script>

<template>
  <section aria-labelledby="contacts">
    <div class="head">
      <h2 id="contacts">Contacts</h2>
      <p v-if="list" class="quiet">
        {{ list.total === 1 ? 'One' : list.total }}{{ filtered ? ' found' : '' }}. What visitors filled in; who looks
        and exports is kept in the activity.
      </p>
    </div>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <div v-if="list" class="filters">
      <el-select v-model="notice" :empty-values="[null, undefined]" filterable persistent aria-label="Of which notice">
        <el-option value="" label="all notices" />
        <el-option v-for="n in list.notices" :key="n.id" :value="n.id" :label="n.name" />
      </el-select>
      <el-date-picker
        v-model="days"
        type="daterange"
        value-format="YYYY-MM-DD"
        start-placeholder="from"
        end-placeholder="until"
        aria-label="Days"
        unlink-panels
      />
      <el-input v-model="find" data-find placeholder="Find in what was filled in" aria-label="Find" clearable />
      <el-select v-model="field" :empty-values="[null, undefined]" :disabled="!find.trim()" aria-label="In which field">
        <el-option value="" label="in any field" />
        <el-option v-for="f in list.fields" :key="f.id" :value="f.id" :label="`in ${f.name}`" />
      </el-select>
      <span class="out">
        <el-button size="small" :disabled="!list.total" :loading="busy === 'csv'" @click="exportAs('csv')"
          >CSV</el-button
        >
        <el-button size="small" :disabled="!list.total" :loading="busy === 'jsonl'" @click="exportAs('jsonl')"
          >JSON Lines</el-button
        >
        <el-button size="small" :disabled="!list.total" :loading="busy === 'vcf'" @click="exportAs('vcf')"
          >vCard</el-button
        >
      </span>
    </div>
    <ul v-if="rows.length" class="plainlist contacts">
      <li v-for="c in rows" :key="c.id">
        <details>
          <summary>
            <b class="who">{{ headline(c) }}</b>
            <span class="of">{{ noticeName(c.notice) }}</span>
            <span v-if="c.waiting" class="waits small">address not confirmed</span>
            <span v-else-if="undelivered(c)" class="waits small">not passed on yet</span>
            <span v-else></span>
            <span class="quiet at">{{ when(c.at) }}</span>
          </summary>
          <dl>
            <template v-for="a in c.answers" :key="a.field">
              <dt>{{ fieldName(c, a) }}</dt>
              <dd>{{ answerText(c, a) }}</dd>
            </template>
          </dl>
          <p class="quiet small">
            On {{ c.page || '/' }}, in {{ nameOf(c.language) }}, by the version of {{ when(c.version) }}. Number
            {{ c.id }}.<template v-if="c.confirmed"> Confirmed {{ when(c.confirmed) }}.</template> Erased by itself
            {{ when(c.expires) }}.
          </p>
          <ul v-if="c.deliveries.length" class="plainlist small">
            <li v-for="d in c.deliveries" :key="d.id">
              {{ kinds[d.kind] }}, {{ d.to }}: {{ deliveryText(d) }}
              <button v-if="d.state !== 'done'" type="button" class="word" @click="retry(d.id)">Try now</button>
            </li>
          </ul>
          <p class="acts">
            <template v-if="erasing === c.id">
              Nothing of it remains, and it cannot be brought back.
              <el-button size="small" type="danger" :loading="busy === 'erase'" @click="erase(c.id)"
                >Erase it for good</el-button
              >
              <el-button size="small" @click="erasing = ''">Keep it</el-button>
            </template>
            <el-button v-else size="small" @click="erasing = c.id">Erase</el-button>
          </p>
        </details>
      </li>
    </ul>
    <p v-else-if="list && filtered">Nothing like that was filled in.</p>
    <p v-else-if="list">
      Nobody has filled in anything yet. A notice asks for something once it has fields: open one, and add a row with a
      field below its words.
    </p>
    <el-button v-if="list && rows.length < list.total" :loading="busy === 'more'" @click="loadMore"
      >Show more</el-button
    >
    <PassingPart v-if="mayManage" />
  </section>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  align-items: baseline;
}
.head p {
  margin: 0;
}
.filters {
  display: grid;
  grid-template-columns: 180px 260px minmax(160px, 1fr) 160px auto;
  gap: 8px;
  align-items: center;
  margin: 8px 0;
}
.filters :deep(.el-date-editor) {
  width: 100%;
}
.out {
  display: flex;
}
.contacts > li {
  border-bottom: 1px solid var(--line);
}
summary {
  display: grid;
  grid-template-columns: 10px minmax(0, 5fr) minmax(0, 4fr) 150px 168px;
  gap: 2px 16px;
  align-items: baseline;
  padding: 8px 0;
  cursor: pointer;
}
summary::before {
  content: '▸';
  color: var(--ink-2);
}
details[open] > summary::before {
  content: '▾';
}
.who {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.waits {
  justify-self: start;
}
.at {
  text-align: end;
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
}
.waits {
  padding: 0 6px;
  background: var(--wait-bg);
  color: var(--wait);
}
dl {
  display: grid;
  grid-template-columns: minmax(80px, 180px) minmax(0, 1fr);
  gap: 2px 16px;
  margin: 0 0 6px 18px;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
details > p,
details > ul {
  margin: 2px 0 6px 18px;
  overflow-wrap: anywhere;
}
@media (max-width: 1000px) {
  .filters {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
@media (max-width: 560px) {
  summary {
    grid-template-columns: 10px minmax(0, 1fr);
  }
  summary > :nth-child(n + 2) {
    grid-column: 2;
  }
  summary > :empty {
    display: none;
  }
  .at {
    text-align: start;
  }
  .filters {
    grid-template-columns: minmax(0, 1fr);
  }
  dl {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
