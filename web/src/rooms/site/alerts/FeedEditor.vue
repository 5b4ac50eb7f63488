<script setup lang="ts">
// One feed: where it is read, who approves its messages, which level they
// get, which pages they are for.
import { computed, ref, watch } from 'vue'
import type { Feed, LevelRule } from '../../../api/client'
import PeriodField from '../../../instruments/PeriodField.vue'
import LevelRules from './LevelRules.vue'
import { clone } from '../../../instruments/clone'

const props = defineProps<{ feed: Feed; defaults: LevelRule[]; tags: string[]; seen: string[] }>()
const emit = defineEmits<{ save: [feed: Feed]; remove: []; close: [] }>()

const draft = ref<Feed>(clone(props.feed))
watch(
  () => props.feed,
  (f) => (draft.value = clone(f)),
)
const areas = computed(() => draft.value.areas ?? [])
const putAreas = (list: NonNullable<Feed['areas']>) => (draft.value.areas = list)
function save() {
  const f: Record<string, unknown> = { ...clone(draft.value) }
  f.areas = areas.value.filter((a) => a.area.trim() && a.tag.trim())
  for (const k of Object.keys(f)) if (f[k] === '' || (k === 'areas' && !(f[k] as unknown[]).length)) delete f[k]
  emit('save', f as unknown as Feed)
}
</script>

<template>
  <form class="feed" @submit.prevent="save">
    <div class="pair">
      <label>What you call it <el-input v-model="draft.title" aria-label="What you call it" maxlength="200" /></label>
      <label
        >Where it is read
        <el-input
          v-model="draft.address"
          aria-label="Address of the feed"
          placeholder="https://…, or nothing: then you paste"
        />
      </label>
      <label
        >How often
        <el-select v-model="draft.every" aria-label="How often it is asked" placeholder="every 5 minutes">
          <el-option value="PT30S" label="every 30 seconds" />
          <el-option value="PT1M" label="every minute" />
          <el-option value="PT5M" label="every 5 minutes" />
          <el-option value="PT30M" label="every half an hour" />
          <el-option value="PT6H" label="every 6 hours" />
          <el-option
            v-if="draft.every && !['PT30S', 'PT1M', 'PT5M', 'PT30M', 'PT6H'].includes(draft.every)"
            :value="draft.every"
            :label="draft.every"
          />
        </el-select>
      </label>
      <label
        >Who approves its messages
        <el-select
          v-model="draft.approve"
          aria-label="Who approves its messages"
          placeholder="you, each new one; what follows comes by itself"
        >
          <el-option value="new" label="you, each new one; what follows comes by itself" />
          <el-option value="each" label="you, each of them" />
          <el-option value="none" label="nobody: all are published at once" />
        </el-select>
      </label>
    </div>
    <label
      >How long a message holds that says no end
      <PeriodField
        :model-value="draft.lasts ?? 'P1D'"
        label="How long a message without an end holds"
        @update:model-value="(v) => (draft.lasts = v)"
      />
    </label>
    <details>
      <summary>Which level a message gets</summary>
      <LevelRules v-model="draft.levels" :defaults="defaults" />
    </details>
    <details :open="areas.length > 0">
      <summary>Which pages an area is</summary>
      <p class="quiet small">
        A message for several areas shows on the pages of all of them; one for none of these on every page.
      </p>
      <div v-for="(a, i) in areas" :key="i" class="area">
        <el-input
          :model-value="a.area"
          list="areas-seen"
          placeholder="As the message says it, or code=value"
          :aria-label="`Area ${i + 1}`"
          @update:model-value="(v: string) => putAreas(areas.map((x, j) => (j === i ? { ...x, area: v } : x)))"
        />
        <span class="quiet small">pages tagged</span>
        <el-input
          :model-value="a.tag"
          list="tags-known"
          :aria-label="`Tag for area ${i + 1}`"
          @update:model-value="(v: string) => putAreas(areas.map((x, j) => (j === i ? { ...x, tag: v } : x)))"
        />
        <el-button
          text
          size="small"
          :aria-label="`Remove area ${i + 1}`"
          @click="putAreas(areas.filter((_, j) => j !== i))"
          >✕</el-button
        >
      </div>
      <datalist id="areas-seen"><option v-for="s in seen" :key="s" :value="s"></option></datalist>
      <datalist id="tags-known"><option v-for="t in tags" :key="t" :value="t"></option></datalist>
      <el-button size="small" @click="putAreas([...areas, { area: '', tag: '' }])">Add an area</el-button>
    </details>
    <div class="acts">
      <el-button type="primary" native-type="submit">Keep</el-button>
      <el-button @click="$emit('close')">Leave it as it was</el-button>
      <span class="grow"></span>
      <el-switch
        :model-value="!draft.off"
        active-text="asked"
        aria-label="This feed is asked"
        @change="(on: string | number | boolean) => (draft.off = on ? undefined : true)"
      />
      <el-button text @click="$emit('remove')">Remove the feed</el-button>
    </div>
  </form>
</template>

<style scoped>
.feed,
details[open] {
  display: grid;
  gap: 10px;
}
.feed {
  padding: 10px 0;
}
.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 10px;
}
label {
  display: grid;
  gap: 2px;
  color: var(--ink-2);
}
summary {
  cursor: pointer;
  font-weight: 600;
}
.area {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
.acts .el-button {
  margin: 0;
}
.grow {
  flex: 1;
}
p {
  margin: 0;
}
@media (max-width: 640px) {
  .pair {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
