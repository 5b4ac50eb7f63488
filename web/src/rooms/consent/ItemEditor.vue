<script setup lang="ts">
// One row of the inventory: what it is, who sets it, for which purpose, for how
// long, and what for, in each language.
import { computed, ref, watch } from 'vue'
import type { ConsentItem } from '../../api/client'
import PeriodField from '../../instruments/PeriodField.vue'
import { nameOf } from '../../instruments/languages'
import { kinds, useConsent } from './consent'
import { clone } from '../../instruments/clone'

const props = defineProps<{ item: ConsentItem; fresh?: boolean }>()
const emit = defineEmits<{ save: [item: ConsentItem]; remove: []; close: [] }>()
const { room, languages, busy } = useConsent()
const draft = ref<ConsentItem>({ kind: 'cookie', name: '' })
watch(
  () => props.item,
  (i) => (draft.value = clone(i)),
  { immediate: true },
)
const keeps = computed(() => draft.value.kind === 'cookie' || draft.value.kind === 'storage')
const how = computed(() => {
  const l = draft.value.lasts
  return !l ? '' : l === 'session' || l === 'ever' ? l : 'span'
})
function setHow(v: string) {
  draft.value.lasts = v === 'span' ? 'P30D' : v || undefined
}
function setFor(tag: string, text: string) {
  const all: Record<string, string> = { ...draft.value.for, [tag]: text }
  if (!text) delete all[tag]
  draft.value.for = all
}
function save() {
  const out: Record<string, unknown> = { ...draft.value, name: draft.value.name.trim() }
  if (!keeps.value) delete out.lasts
  for (const [k, v] of Object.entries(out)) if (v === '' || v === undefined) delete out[k]
  emit('save', out as ConsentItem)
}
</script>

<template>
  <form class="item" @submit.prevent="save" @keydown.esc.stop="$emit('close')">
    <label
      >What it is
      <el-select v-model="draft.kind" aria-label="What it is">
        <el-option v-for="(label, k) in kinds" :key="k" :value="k" :label="label" />
      </el-select>
    </label>
    <label
      >{{ keeps ? 'Name; * for any run of characters' : 'Host' }}
      <el-input v-model="draft.name" required :aria-label="keeps ? 'Name' : 'Host'" />
    </label>
    <label
      >Purpose
      <el-select v-model="draft.purpose" placeholder="not said yet" clearable aria-label="Purpose">
        <el-option
          v-for="p in room?.purposes.filter((p) => p.asked || p.id === 'necessary' || p.id === draft.purpose)"
          :key="p.id"
          :value="p.id"
          :label="p.name"
        />
      </el-select>
    </label>
    <label>Who sets it <el-input v-model="draft.by" placeholder="the site itself" aria-label="Who sets it" /></label>
    <template v-if="keeps">
      <label class="two"
        >Kept for
        <span class="kept">
          <el-select :model-value="how" placeholder="not said yet" aria-label="Kept for" @change="setHow">
            <el-option value="session" label="this visit" />
            <el-option value="span" label="a time" />
            <el-option value="ever" label="until it is removed" />
          </el-select>
          <PeriodField v-if="how === 'span'" v-model="draft.lasts" label="Kept for" />
        </span>
      </label>
      <label>For which host <el-input v-model="draft.host" placeholder="the site" aria-label="For which host" /></label>
    </template>
    <label v-for="tag in languages" :key="tag" class="whole"
      >What for, in {{ nameOf(tag) }}
      <el-input
        :model-value="draft.for?.[tag] ?? ''"
        :lang="tag"
        :aria-label="`What for, in ${nameOf(tag)}`"
        maxlength="500"
        @update:model-value="(v: string) => setFor(tag, v)"
      />
    </label>
    <div class="whole acts">
      <el-button type="primary" size="small" native-type="submit" :loading="busy === 'save'">{{
        fresh ? 'Put it there' : 'Keep it'
      }}</el-button>
      <el-button size="small" @click="$emit('close')">Cancel</el-button>
      <el-button v-if="!fresh" size="small" text type="danger" @click="$emit('remove')">Remove the row</el-button>
    </div>
  </form>
</template>

<style scoped>
.item {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 8px 12px;
  padding: 10px 12px 12px;
  background: var(--chart);
}
label {
  display: grid;
  gap: 2px;
  align-content: start;
  font-size: 12px;
}
.whole {
  grid-column: 1 / -1;
}
.two {
  grid-column: span 2;
}
.kept {
  display: flex;
  gap: 6px;
}
.acts {
  display: flex;
  gap: 8px;
}
.acts .el-button {
  margin: 0;
}
@media (max-width: 700px) {
  .item {
    grid-template-columns: minmax(0, 1fr);
  }
  .two {
    grid-column: auto;
  }
}
</style>
