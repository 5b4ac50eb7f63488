<script setup lang="ts">
// Where a notice stands: a slot, or a spot in the page.
import { computed } from 'vue'
import type { Notice } from '../../../api/client'
import ChoiceWord from './ChoiceWord.vue'

type Slot = NonNullable<Notice['slot']>
type Spot = NonNullable<Notice['spot']>
const notice = defineModel<Notice>({ required: true })
defineEmits<{ point: [] }>()

const slots: { value: Slot; label: string; means: string }[] = [
  { value: 'top', label: 'At the top', means: 'Room for two bars.' },
  { value: 'bottom', label: 'At the bottom', means: 'Room for one bar.' },
  { value: 'corner-end', label: 'In the corner where lines end', means: 'A small card. Room for one.' },
  { value: 'corner-start', label: 'In the corner where lines begin', means: 'A small card. Room for one.' },
  { value: 'centre', label: 'In the middle', means: 'It holds the page until it is closed. Room for one.' },
  { value: 'cover', label: 'Over everything', means: 'The same, over the whole window.' },
  { value: 'inline', label: 'At a spot in the page', means: 'Among the page’s own sections, wherever you point.' },
  { value: 'title', label: 'In the tab title', means: 'Its words stand in the title of the browser’s tab.' },
]
const slot = computed<Slot>({ get: () => notice.value.slot ?? 'top', set: (v) => (notice.value.slot = v) })
const wheres: { value: NonNullable<Spot['where']>; label: string }[] = [
  { value: 'before', label: 'before' },
  { value: 'after', label: 'after' },
  { value: 'first', label: 'first inside' },
  { value: 'last', label: 'last inside' },
  { value: 'instead', label: 'instead of' },
]
function set(part: Partial<Spot>) {
  notice.value.spot = { selector: notice.value.spot?.selector ?? 'h1', ...notice.value.spot, ...part }
}
</script>

<template>
  <ChoiceWord v-model="slot" label="Where on the screen" :choices="slots" />
  <div v-if="slot === 'inline'" class="spot">
    <el-select
      :model-value="notice.spot?.where ?? 'after'"
      aria-label="On which side"
      @change="(v: string) => set({ where: v as Spot['where'] })"
    >
      <el-option v-for="w in wheres" :key="w.value" :value="w.value" :label="w.label" />
    </el-select>
    <el-input
      :model-value="notice.spot?.selector ?? ''"
      aria-label="The element, as a CSS selector"
      placeholder="main > h1"
      @change="(v: string) => set({ selector: v })"
    />
    <el-button type="primary" @click="$emit('point')">{{ notice.spot ? 'Point at another' : 'Point at it on the stage' }}</el-button>
  </div>
</template>

<style scoped>
.spot {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr) auto;
  gap: 6px;
  margin-top: 8px;
}
</style>
