<script setup lang="ts">
// What of a picture stays in sight where it is cropped: pressed in the picture, or moved by keys.
import { computed } from 'vue'

interface Point {
  x: number
  y: number
}
defineProps<{ src: string }>()
const point = defineModel<Point | undefined>({ required: true })

const focus = computed(() => point.value ?? { x: 50, y: 50 })
const set = (part: Partial<Point>) => (point.value = { ...focus.value, ...part })
function press(e: MouseEvent) {
  const at = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const share = (v: number, from: number, length: number) =>
    Math.round(Math.min(1, Math.max(0, (v - from) / length)) * 100)
  set({ x: share(e.clientX, at.x, at.width), y: share(e.clientY, at.y, at.height) })
}
</script>

<template>
  <div class="focal">
    <div class="photo" @click="press">
      <img :src="src" alt="" />
      <span class="dot" :style="{ left: focus.x + '%', top: focus.y + '%' }"></span>
    </div>
    <div class="sliders small">
      <span class="quiet">What stays in sight: press it in the picture.</span>
      <label
        >from the left
        <input
          type="range"
          min="0"
          max="100"
          :value="focus.x"
          aria-label="What stays in sight, from the left, per cent"
          @input="(e) => set({ x: Number((e.target as HTMLInputElement).value) })"
      /></label>
      <label
        >from the top
        <input
          type="range"
          min="0"
          max="100"
          :value="focus.y"
          aria-label="What stays in sight, from the top, per cent"
          @input="(e) => set({ y: Number((e.target as HTMLInputElement).value) })"
      /></label>
    </div>
  </div>
</template>

<style scoped>
.focal {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: start;
}
.photo {
  position: relative;
  flex: none;
  cursor: crosshair;
}
.photo img {
  display: block;
  width: 160px;
  height: auto;
}
.dot {
  position: absolute;
  width: 14px;
  height: 14px;
  margin: -8px;
  border: 2px solid #fff;
  border-radius: 50%;
  outline: 2px solid var(--sea);
  background: var(--sea);
  pointer-events: none;
}
.sliders {
  display: grid;
  gap: 4px;
}
</style>
