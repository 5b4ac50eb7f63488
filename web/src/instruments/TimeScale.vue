<script setup lang="ts">
// The ruled scale of the strip of time. Its cursor is the viewpoint's moment:
// press or drag to move it, or use the arrow keys.
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import type { View } from '../api/client'
import { instantAt, place, ticks } from './strip'
import { local, say } from './time'
import { useViewpoint } from './viewpoint'

const props = defineProps<{ view: View }>()
const { look } = useViewpoint()
const scale = useTemplateRef<HTMLElement>('scale')
const { width } = useElementSize(scale)
const marks = computed(() => ticks(props.view.from, props.view.until, props.view.zone, width.value || 600))
const dragged = ref<Date>()
const cursor = computed(() => place(dragged.value ?? props.view.at, props.view.from, props.view.until))

function under(e: PointerEvent): Date {
  const box = scale.value!.getBoundingClientRect()
  return instantAt((e.clientX - box.left) / box.width, props.view.from, props.view.until)
}
function begin(e: PointerEvent) {
  scale.value!.setPointerCapture(e.pointerId)
  dragged.value = under(e)
}
function drag(e: PointerEvent) {
  if (dragged.value) dragged.value = under(e)
}
function drop() {
  if (dragged.value) look({ at: local(dragged.value, props.view.zone) })
  dragged.value = undefined
}
function key(e: KeyboardEvent) {
  const hours = { ArrowLeft: -1, ArrowRight: 1, PageUp: -24, PageDown: 24 }[e.key]
  if (!hours) return
  e.preventDefault()
  look({ at: local(new Date(new Date(props.view.at).getTime() + hours * 3_600_000), props.view.zone) })
}
</script>

<template>
  <div
    ref="scale"
    class="scale"
    role="slider"
    tabindex="0"
    aria-label="Moment looked at"
    :aria-valuemin="Math.round(new Date(view.from).getTime() / 60000)"
    :aria-valuemax="Math.round(new Date(view.until).getTime() / 60000)"
    :aria-valuenow="Math.round(new Date(view.at).getTime() / 60000)"
    :aria-valuetext="say(view.at, view.zone)"
    @pointerdown="begin"
    @pointermove="drag"
    @pointerup="drop"
    @pointercancel="dragged = undefined"
    @keydown="key"
  >
    <span
      v-for="t in marks"
      :key="t.at"
      class="tick"
      :class="{ major: t.major }"
      :style="{ insetInlineStart: t.at + '%' }"
      >{{ t.label }}</span
    >
    <span
      v-for="c in view.clockChanges"
      :key="c.at"
      class="clock"
      :style="{ insetInlineStart: place(c.at, view.from, view.until) + '%' }"
      :title="`Clocks go ${c.minutes > 0 ? 'forward' : 'back'}: ${say(c.at, view.zone)}`"
      >{{ c.minutes > 0 ? '+' : '−' }}{{ Math.abs(c.minutes) / 60 }} h</span
    >
    <span class="now" :style="{ insetInlineStart: place(view.now, view.from, view.until) + '%' }" title="Now"></span>
    <span class="cursor" :style="{ insetInlineStart: cursor + '%' }"
      ><b :class="{ flip: cursor > 70 }">{{ say(dragged ?? view.at, view.zone) }}</b></span
    >
  </div>
</template>

<style scoped>
.scale {
  position: relative;
  height: 44px;
  border-bottom: 1px solid var(--ink-2);
  cursor: ew-resize;
  touch-action: pan-y;
  user-select: none;
}
.tick {
  position: absolute;
  bottom: 0;
  height: 20px;
  padding-inline-start: 3px;
  border-inline-start: 1px solid var(--line);
  color: var(--ink-2);
  font: 12px/1 var(--text);
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
.tick.major {
  border-color: var(--ink-2);
}
.clock {
  position: absolute;
  top: 2px;
  padding: 0 3px;
  background: var(--wait-bg);
  color: var(--wait);
  font: 600 12px/16px var(--text);
}
.now {
  position: absolute;
  bottom: -4px;
  width: 8px;
  height: 8px;
  margin-inline-start: -4px;
  border-radius: 50%;
  background: var(--ink-2);
}
.cursor {
  position: absolute;
  inset-block: 0;
  z-index: 1;
  border-inline-start: 2px solid var(--sea);
}
.cursor b {
  position: absolute;
  top: 0;
  inset-inline-start: 0;
  padding: 0 6px;
  background: var(--sea);
  color: var(--on-sea);
  font: 600 12px/18px var(--text);
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
.cursor b.flip {
  inset-inline: auto 0;
}
</style>
