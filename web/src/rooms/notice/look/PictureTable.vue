<script setup lang="ts">
// Other pictures for visitors of whom the site tells something: by what, and one for each value.
import { computed, ref } from 'vue'
import type { Notice } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import TextField from '../../../instruments/TextField.vue'
import ImageSlot, { type Image } from './ImageSlot.vue'
import ToldField from './ToldField.vue'

type Picture = NonNullable<NonNullable<Notice['content']>['picture']>
type Table = NonNullable<Picture['table']>
type Row = Table['rows'][number]
defineProps<{ site: string }>()
const table = defineModel<Table | undefined>({ required: true })

/** How many there may be. */
const most = 20
const rows = computed(() => table.value?.rows ?? [])
/** What it is by, before there is a picture for any value. */
const begun = ref('')
const by = computed({
  get: () => table.value?.by ?? begun.value,
  set(name) {
    if (table.value) table.value = { ...table.value, by: name }
    else begun.value = name
  },
})
/** The value that a picture is about to be chosen for. */
const fresh = ref('')
const taken = computed(() => rows.value.some((r) => same(r.value, fresh.value)))
const same = (a: string, b: string) => a.trim().toLowerCase() === b.trim().toLowerCase()

function set(i: number, row: Row | undefined) {
  const next = row ? rows.value.with(i, row) : rows.value.toSpliced(i, 1)
  begun.value = by.value
  table.value = next.length ? { ...table.value!, rows: next } : undefined
}
function add(image: Image | undefined) {
  if (image) table.value = { by: by.value, rows: [...rows.value, { value: fresh.value.trim(), ...image }] }
  fresh.value = ''
}
function rename(i: number, value: string) {
  const free = value.trim() && !rows.value.some((r, j) => j !== i && same(r.value, value))
  if (free) set(i, { ...rows.value[i]!, value: value.trim() })
}
function change(i: number, image: Image | undefined) {
  const { value, phone } = rows.value[i]!
  set(i, image && { value, ...image, ...(phone && { phone }) })
}
function clear() {
  begun.value = ''
  table.value = undefined
}
</script>

<template>
  <el-button v-if="!by" class="begin" size="small" text @click="by = 'person.name'">Others for some visitors</el-button>
  <fieldset v-else>
    <legend>Others for some visitors</legend>
    <div class="row">
      <span class="quiet">by</span>
      <ToldField v-model="by" />
      <el-button size="small" text @click="clear">The same for all</el-button>
    </div>
    <div v-for="(r, i) in rows" :key="i" class="value">
      <TextField
        :model-value="r.value"
        size="small"
        maxlength="200"
        :aria-label="`Value ${i + 1}`"
        @change="(v) => rename(i, v)"
      />
      <ImageSlot
        :model-value="r"
        :site="site"
        label=""
        :alt="`The picture for ${r.value}`"
        choose="Another"
        :chooses="`Another picture for ${r.value}`"
        drop="Remove"
        :drops="`Remove the picture for ${r.value}`"
        @update:model-value="(image) => change(i, image)"
      />
      <ImageSlot
        :model-value="r.phone"
        :site="site"
        label="on phones"
        :alt="`The picture for ${r.value} on phones`"
        none="the same"
        choose="Another"
        :chooses="`Another picture for ${r.value} on phones`"
        drop="The same"
        :drops="`The same for ${r.value} on phones`"
        @update:model-value="(phone) => set(i, changed(r, { phone }))"
      />
    </div>
    <div v-if="rows.length < most" class="row">
      <el-input
        v-model="fresh"
        size="small"
        class="fresh"
        maxlength="200"
        placeholder="a value, such as gold"
        aria-label="Another value"
      />
      <ImageSlot
        v-if="fresh.trim() && !taken"
        :model-value="undefined"
        :site="site"
        label=""
        alt=""
        choose="Its picture"
        @update:model-value="add"
      />
      <span v-else-if="taken" class="quiet small">It has one already.</span>
    </div>
    <p class="quiet small">Whoever has another value, or none, gets the picture above.</p>
  </fieldset>
</template>

<style scoped>
fieldset {
  display: grid;
  gap: 8px;
  margin: 0;
  padding: 8px 10px;
  border: 1px solid var(--line);
}
legend {
  padding: 0 4px;
}
.begin {
  justify-self: start;
  margin: 0;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.value {
  display: grid;
  gap: 4px;
}
.value > .el-input,
.fresh {
  width: 180px;
}
p {
  margin: 0;
}
</style>
