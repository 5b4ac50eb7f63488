<script setup lang="ts">
// The inventory by purpose, beside it the evidence: what an inspection saw before an answer, after accepting, after
// refusing. A row opens to be changed.
import type { ConsentItem } from '../../api/client'
import { mayManage } from '../../instruments/me'
import { kinds, lasting, useConsent } from './consent'
import { phases, seenIn, type InventoryRow, type Phase } from './inventory'
import ItemEditor from './ItemEditor.vue'

defineProps<{ groups: { id: string; name: string; rows: InventoryRow[] }[] }>()
/** The place of the row that is open. */
const editing = defineModel<number | undefined>({ required: true })
defineEmits<{ save: [index: number, item: ConsentItem]; remove: [index: number] }>()
const { room, detail } = useConsent()

const toggle = (index: number) => (editing.value = editing.value === index ? undefined : index)
const text = (i: ConsentItem) => i.for?.[detail.value!.site.language] ?? Object.values(i.for ?? {})[0] ?? ''
/** What an inspection says of a row in a phase. One without a browser sees no more than what is there unanswered. */
function verdict(r: InventoryRow, phase: Phase): 'leaks' | 'set' | 'not yet' | '–' {
  const run = room.value?.run
  if (!run || (run.how === 'http' && phase !== 'unanswered')) return 'not yet'
  if (!seenIn(r.thing, phase)) return '–'
  return phase !== 'accepted' && r.item.purpose !== 'necessary' ? 'leaks' : 'set'
}
function evidence(r: InventoryRow, phase: Phase): string | undefined {
  const seen = seenIn(r.thing, phase)
  return seen && `${seen.page}, by ${seen.by || 'the page'}`
}
</script>

<template>
  <table>
    <thead>
      <tr>
        <th scope="col">Name</th>
        <th scope="col">From</th>
        <th scope="col">Kept for</th>
        <th v-for="p in phases" :key="p.phase" scope="col" class="phase">{{ p.name }}</th>
      </tr>
    </thead>
    <tbody v-for="g in groups" :key="g.id">
      <tr class="group">
        <th colspan="6" scope="colgroup">{{ g.name }}</th>
      </tr>
      <template v-for="r in g.rows" :key="r.index">
        <tr :class="{ open: editing === r.index }">
          <td>
            <button v-if="mayManage" class="word name" :aria-expanded="editing === r.index" @click="toggle(r.index)">
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
          <td v-for="p in phases" :key="p.phase" class="phase" :title="evidence(r, p.phase)">
            <b v-if="verdict(r, p.phase) === 'leaks'" class="leak">leaks</b>
            <span v-else-if="verdict(r, p.phase) === 'set'" class="is">set</span>
            <span v-else class="quiet">{{ verdict(r, p.phase) }}</span>
          </td>
        </tr>
        <tr v-if="editing === r.index" class="editor">
          <td colspan="6">
            <ItemEditor
              :item="r.item"
              @save="(item: ConsentItem) => $emit('save', r.index, item)"
              @remove="$emit('remove', r.index)"
              @close="editing = undefined"
            />
          </td>
        </tr>
      </template>
    </tbody>
  </table>
</template>

<style scoped>
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
