<script setup lang="ts">
// Where the picture of a notice stands, how large it is, and what of it stays in sight.
import { computed } from 'vue'
import type { Notice } from '../../../api/client'
import { changed } from '../../../instruments/changed'
import OptionField from '../../../instruments/OptionField.vue'
import FocalPoint from './FocalPoint.vue'

type Picture = NonNullable<NonNullable<Notice['content']>['picture']>
/** `card` is whether it stands elsewhere than at an edge of the window. */
const props = defineProps<{ site: string; card: boolean }>()
const picture = defineModel<Picture>({ required: true })

function set(part: Partial<Picture>) {
  picture.value = changed(picture.value, part)
}
const usual = computed(() => (props.card ? 'above' : 'start'))
const places = [
  { value: 'start', label: 'where the lines begin' },
  { value: 'end', label: 'where the lines end' },
  { value: 'above', label: 'above the words' },
  { value: 'behind', label: 'behind the words' },
]
const place = computed<string>({
  get: () => picture.value.place ?? usual.value,
  set: (v) => set({ place: v === usual.value ? undefined : (v as Picture['place']), veil: undefined }),
})
/** It is cut to the room there is. */
const cropped = computed(
  () => place.value === 'behind' || (props.card && (place.value !== 'above' || !!picture.value.size)),
)
const sizeWord = computed(() => (props.card && ['start', 'end'].includes(place.value) ? 'Width' : 'Height'))
</script>

<template>
  <div class="place">
    <div class="row">
      <span class="label">It stands</span>
      <OptionField v-model="place" label="Where the picture stands" :options="places" size="small" />
    </div>
    <div class="row">
      <span class="label">{{ sizeWord }}</span>
      <el-input-number
        :model-value="picture.size"
        :min="16"
        :max="1200"
        size="small"
        controls-position="right"
        placeholder="as usual"
        :aria-label="`${sizeWord} of the picture, px`"
        @change="(n: number | undefined) => set({ size: n })"
      />
      <span class="quiet small">px</span>
    </div>
    <div v-if="place === 'behind'" class="row">
      <el-switch
        :model-value="picture.veil === undefined"
        active-text="The field covers as much of it as the words need"
        aria-label="The field covers as much of it as the words need"
        @change="(on) => set({ veil: on ? undefined : 50 })"
      />
      <template v-if="picture.veil !== undefined">
        <input
          type="range"
          min="0"
          max="100"
          :value="picture.veil"
          aria-label="How much of the picture the field covers, per cent"
          @input="(e) => set({ veil: Number((e.target as HTMLInputElement).value) })"
        />
        <span class="figures small">{{ picture.veil }} %</span>
      </template>
    </div>
    <FocalPoint
      v-if="cropped && picture.file"
      :model-value="picture.focus"
      :src="`/i/${site}/${picture.file}`"
      @update:model-value="(focus) => set({ focus })"
    />
  </div>
</template>

<style scoped>
.place {
  display: grid;
  gap: 6px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.row .el-select {
  flex: 1;
  min-width: 140px;
}
.el-input-number {
  width: 120px;
}
.label {
  width: 72px;
  color: var(--ink-2);
}
</style>
