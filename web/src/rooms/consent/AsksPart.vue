<script setup lang="ts">
// What do we ask? The purposes, the notices that ask about them, and what of it
// would not hold up in law.
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Purpose } from '../../api/client'
import Halyard from '../../instruments/Halyard.vue'
import { mayManage, mayWrite } from '../../instruments/me'
import OrderLine from '../../instruments/OrderLine.vue'
import { useViewpoint } from '../../instruments/viewpoint'
import { beginNotice } from '../notice/begin'
import { questionOf, useConsent } from './consent'
import FindingList from './FindingList.vue'
import PurposeWords from './PurposeWords.vue'
import { clone } from '../../instruments/clone'

const { room, setup, site, busy, save } = useConsent()
const router = useRouter()
const { view } = useViewpoint()
const asked = computed(() => setup.value.purposes ?? [])
const findings = computed(() => (room.value?.findings ?? []).filter((f) => questionOf(f) === 'asks'))
const today = computed(() => (view.value?.now ?? '').slice(0, 10))
const things = (id: string) => (setup.value.inventory ?? []).filter((i) => i.purpose === id).length

function turn(id: string, on: boolean) {
  const list = on ? [...asked.value, { id }] : asked.value.filter((p) => p.id !== id)
  // What was for it is for no purpose now: nothing is lost.
  const inventory = on
    ? setup.value.inventory
    : setup.value.inventory?.map((i) => (i.purpose === id ? { ...i, purpose: undefined } : i))
  void save(
    { ...setup.value, purposes: list, inventory },
    on ? 'Visitors are asked about it.' : 'Visitors are no longer asked about it.',
  )
}
function move(id: string, by: number) {
  const list = [...asked.value]
  const i = list.findIndex((p) => p.id === id)
  const [p] = list.splice(i, 1)
  list.splice(i + by, 0, p!)
  void save({ ...setup.value, purposes: list }, '')
}

// The words of a purpose.
const editing = ref('')
const draft = ref<Purpose>({ id: '' })
function edit(id: string) {
  if (editing.value === id) {
    editing.value = ''
    return
  }
  editing.value = id
  draft.value = clone(asked.value.find((p) => p.id === id) ?? { id })
}
const slug = (name: string) =>
  name
    .toLowerCase()
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 40) || 'purpose'
async function keep() {
  const p = { ...draft.value }
  if (p.words && !Object.keys(p.words).length) delete p.words
  let list = [...asked.value]
  if (editing.value === 'new') {
    const first = Object.values(p.words ?? {})[0]?.name ?? ''
    p.id = slug(first)
    for (let n = 2; list.some((x) => x.id === p.id) || p.id === 'necessary'; n++) p.id = `${slug(first)}-${n}`
    list.push(p)
  } else list = list.map((x) => (x.id === p.id ? p : x))
  if (await save({ ...setup.value, purposes: list })) editing.value = ''
}
</script>

<template>
  <div v-if="room" class="parted">
    <section aria-labelledby="purposes">
      <h2 id="purposes">Purposes</h2>
      <ul class="plainlist purposes">
        <li v-for="p in room.purposes" :key="p.id">
          <div class="line">
            <span>
              <b>{{ p.name }}</b>
              <span v-if="p.id === 'necessary'" class="quiet small"> always on, nobody is asked</span>
              <span v-else-if="!p.asked" class="quiet small"> not asked about</span>
              <span v-if="p.asked && p.signalled" class="small"> · a privacy signal refuses it</span>
              <span class="quiet small">
                · {{ things(p.id) === 1 ? 'one thing' : `${things(p.id)} things` }} set for it</span
              >
              <br /><span class="small">{{ p.text }}</span>
            </span>
            <span v-if="mayManage && p.id !== 'necessary'" class="acts">
              <template v-if="p.asked">
                <el-button
                  size="small"
                  text
                  :aria-label="`${p.name}: further up`"
                  :disabled="asked[0]?.id === p.id"
                  @click="move(p.id, -1)"
                  >↑</el-button
                >
                <el-button
                  size="small"
                  text
                  :aria-label="`${p.name}: further down`"
                  :disabled="asked.at(-1)?.id === p.id"
                  @click="move(p.id, 1)"
                  >↓</el-button
                >
                <el-button size="small" :aria-expanded="editing === p.id" @click="edit(p.id)">Its words</el-button>
              </template>
              <el-switch
                :model-value="p.asked"
                :aria-label="`Ask about ${p.name}`"
                @change="(on) => turn(p.id, !!on)"
              />
            </span>
          </div>
          <form v-if="editing === p.id" class="words" @submit.prevent="keep" @keydown.esc.stop="editing = ''">
            <el-checkbox :model-value="draft.signal ?? p.id === 'marketing'" @change="(on) => (draft.signal = !!on)"
              >It sells or shares what it learns: a browser’s privacy signal refuses it</el-checkbox
            >
            <PurposeWords v-model="draft.words" :known="p.known" />
            <div class="acts">
              <el-button type="primary" size="small" native-type="submit" :loading="busy === 'save'">Keep it</el-button>
              <el-button size="small" @click="editing = ''">Cancel</el-button>
            </div>
          </form>
        </li>
      </ul>
      <template v-if="mayManage">
        <form v-if="editing === 'new'" class="words" @submit.prevent="keep" @keydown.esc.stop="editing = ''">
          <PurposeWords v-model="draft.words" />
          <div class="acts">
            <el-button type="primary" size="small" native-type="submit" :loading="busy === 'save'"
              >Ask about it</el-button
            >
            <el-button size="small" @click="editing = ''">Cancel</el-button>
          </div>
        </form>
        <el-button v-else size="small" @click="((editing = 'new'), (draft = { id: '' }))"
          >A purpose of your own</el-button
        >
      </template>
    </section>
    <div>
      <section aria-labelledby="notices">
        <h2 id="notices">Notices that ask</h2>
        <p v-if="!room.notices.length" class="quiet">
          None yet. A new one has words in the site’s languages and is right for every page; nobody sees it before you
          publish it.
        </p>
        <ul class="plainlist notices">
          <li v-for="n in room.notices" :key="n.id">
            <Halyard :flag="n.flag" />
            <router-link :to="{ name: 'notice', params: { site, notice: n.id } }">{{ n.title }}</router-link>
            <OrderLine :line="n.line" class="small quiet" />
          </li>
        </ul>
        <el-button
          v-if="mayWrite"
          size="small"
          :type="room.notices.length ? undefined : 'primary'"
          @click="beginNotice(router, site, undefined, 'consent')"
          >New consent notice</el-button
        >
      </section>
      <section aria-labelledby="ask-findings">
        <h2 id="ask-findings">What would not hold up in law</h2>
        <FindingList v-if="findings.length" :findings="findings" />
        <p v-else class="quiet">Nothing was found. That is no legal advice.</p>
      </section>
      <section aria-labelledby="gating">
        <h2 id="gating">For the site’s developer</h2>
        <p class="small">
          Mark what needs consent with its purpose. It runs once that is agreed to, on this page or a later one:
        </p>
        <pre>
&lt;script type="text/plain" data-purpose="{{ asked[0]?.id ?? 'measurement' }}" src="…"&gt;&lt;/script&gt;
&lt;iframe data-purpose="{{ asked.at(-1)?.id ?? 'marketing' }}" data-src="…" title="…"&gt;&lt;/iframe&gt;</pre>
        <p class="small">
          A page can ask <code>mastflag.consent.granted('{{ asked[0]?.id ?? 'measurement' }}')</code>, open the question
          with <code>mastflag.consent.open()</code>, and hear of changes by the event <code>mastflag:consent</code> on
          the document. That browsers’ privacy signals are honoured can be said at <code>/.well-known/gpc.json</code>:
          <code>{"gpc": true, "lastUpdate": "{{ today }}"}</code>
        </p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.purposes > li {
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
.line {
  display: flex;
  gap: 12px;
  align-items: flex-start;
  justify-content: space-between;
}
.acts {
  display: flex;
  flex: none;
  gap: 6px;
  align-items: center;
}
.acts .el-button {
  margin: 0;
}
.words {
  display: grid;
  gap: 8px;
  margin: 6px 0 8px;
  padding: 10px 12px;
  background: var(--chart);
}
.notices li {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 0 8px;
  align-items: center;
  margin-bottom: 8px;
}
.notices .line {
  grid-column: 1 / -1;
  display: block;
}
h2 {
  margin-bottom: 4px;
}
section p {
  margin: 4px 0 8px;
  max-width: 68ch;
}
pre {
  overflow-x: auto;
  margin: 4px 0 8px;
  padding: 8px 10px;
  background: var(--chart);
  font-size: 12px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
section > .el-button {
  margin-top: 8px;
}
</style>
