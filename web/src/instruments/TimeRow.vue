<script setup lang="ts">
// One notice's live time on the strip: solid where live, dashed where live for
// some visitors only, outlined where it would be live once published.
import type { Interval, View } from '../api/client'
import { place } from './strip'
import { say } from './time'

defineProps<{ view: View; intervals: Interval[]; out: boolean; name: string }>()
</script>

<template>
  <div class="row">
    <span
      v-for="i in intervals"
      :key="i.from"
      class="stretch"
      :class="{ partly: i.partly, would: !out }"
      :style="{
        insetInlineStart: place(i.from, view.from, view.until) + '%',
        width: place(i.until, view.from, view.until) - place(i.from, view.from, view.until) + '%',
      }"
      :title="`${name}: ${say(i.from, view.zone)} to ${say(i.until, view.zone)}`"
    ></span>
    <span class="cursor" :style="{ insetInlineStart: place(view.at, view.from, view.until) + '%' }"></span>
  </div>
</template>

<style scoped>
.row {
  position: relative;
  min-height: 24px;
}
.row::before {
  position: absolute;
  inset: 50% 0 auto;
  border-top: 1px solid var(--line);
  content: '';
}
.stretch {
  position: absolute;
  top: calc(50% - 7px);
  min-width: 3px;
  height: 14px;
  border: 1px solid var(--live);
  border-radius: 2px;
  background: var(--live);
}
.stretch.partly {
  border-style: dashed;
  background: color-mix(in srgb, var(--live) 30%, var(--sail));
}
.stretch.would {
  border-color: var(--ink-2);
  background: var(--sail);
}
.cursor {
  position: absolute;
  inset-block: 0;
  border-inline-start: 2px solid var(--sea);
}
</style>
