<script setup lang="ts">
// When the draft would be live, on the strip of time, where its ends can be moved.
import { computed } from 'vue'
import { ends, wholes, type End } from '../../instruments/strip'
import { instantOf, lasting } from '../../instruments/time'
import TimeRow from '../../instruments/TimeRow.vue'
import TimeScale from '../../instruments/TimeScale.vue'
import { useViewpoint } from '../../instruments/viewpoint'
import { useNotice } from './room'

const { view } = useViewpoint()
const { detail, notice, content, schedule, countdown, out } = useNotice()

/** Visitors have just what is written here. */
const same = computed(() => out.value && !detail.value?.card.hasDraft)
const onSiteClock = (clock?: string) => !clock || clock === 'site'
/** The windows that can be moved here: those read on the site's clock. */
const windows = computed(() => (onSiteClock(schedule.value.clock) ? (schedule.value.windows ?? []) : []))
/** When the countdown runs out, if that is on the strip. */
const runsOut = computed(() => {
  const c = countdown.value
  if (!view.value || c?.kind !== 'to' || !c.at || !onSiteClock(c.clock)) return undefined
  const at = instantOf(c.at, view.value.zone)
  return at && at >= new Date(view.value.from) && at <= new Date(view.value.until) ? at : undefined
})
const movable = computed(() => {
  if (!view.value) return { ends: [] as End[], wholes: [] }
  const on = [windows.value, view.value.zone, view.value.from, view.value.until] as const
  const end: End[] = runsOut.value ? [{ window: 0, end: 'countdown', at: runsOut.value }] : []
  return { ends: [...ends(...on), ...end], wholes: wholes(...on) }
})
const live = computed(() => (same.value && !detail.value?.card.leftOut ? 'Live' : 'Would be live'))
const howLong = computed(() => (detail.value?.hours ? lasting(detail.value.hours) : 'at no time'))

function putEnd(e: End, to: string) {
  if (e.end !== 'countdown') putWindow(e.window, { [e.end]: to })
  else if (countdown.value) content.value = { ...content.value, countdown: { ...countdown.value, at: to } }
}
function putWindow(at: number, part: { from?: string; until?: string }) {
  const plan = schedule.value
  if (!plan.windows) return
  schedule.value = { ...plan, windows: plan.windows.map((w, i) => (i === at ? { ...w, ...part } : w)) }
}
const shift = (at: number, from: string, until: string) => putWindow(at, { from, until })
</script>

<template>
  <div v-if="view && detail && notice" class="time">
    <div class="quiet small">{{ live }} {{ howLong }} here, times in {{ view.zone }}</div>
    <TimeScale :view="view" />
    <div></div>
    <TimeRow
      :view="view"
      :intervals="detail.intervals"
      :out="same && detail.card.flag !== 'paused'"
      :name="notice.title ?? ''"
      :held="detail.held"
      :ends="movable.ends"
      :wholes="movable.wholes"
      @move="putEnd"
      @shift="shift"
    />
  </div>
</template>

<style scoped>
.time {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr);
  gap: 0 12px;
  align-items: end;
  margin-top: 12px;
}
.time .row {
  height: 30px;
}
@media (max-width: 560px) {
  .time {
    grid-template-columns: minmax(0, 1fr);
  }
  .time > :nth-child(3) {
    display: none;
  }
}
</style>
