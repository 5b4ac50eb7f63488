<script setup lang="ts">
// One notice's live time on the strip: solid where live, dashed where live for
// some visitors only, outlined where it would be live once published, hatched
// where a rival has its place. Ends and whole windows that are given can be
// moved: dragged, or by the arrow keys.
import { ref, useTemplateRef, watch } from 'vue'
import type { Interval, View } from '../api/client'
import { instantAt, place, snapped, type End, type Whole } from './strip'
import { local, say } from './time'

const props = defineProps<{
  view: View
  intervals: Interval[]
  out: boolean
  name: string
  held?: Interval[]
  ends?: End[]
  wholes?: Whole[]
}>()
const emit = defineEmits<{ move: [end: End, to: string]; shift: [window: number, from: string, until: string] }>()

const row = useTemplateRef<HTMLElement>('row')
/** Whether any of it lies on the strip. */
const seen = (i: Interval) => i.until > props.view.from && i.from < props.view.until

const at = (t: string | Date) => place(t, props.view.from, props.view.until)
const span = (i: Interval) => ({ insetInlineStart: at(i.from) + '%', width: at(i.until) - at(i.from) + '%' })

/** The end in hand, and where it is, until what it was moved to has come about. */
const inHand = ref<{ end: End; at: Date; dragging?: boolean }>()
/** What each kind of end is called, and what happens there. */
const names = {
  from: ['Start', 'Starts'],
  until: ['End', 'Ends'],
  countdown: ['End of the countdown', 'The countdown runs out'],
} as const
const key = (e: End) => `${e.window} ${e.end}`
const where = (e: End) => (inHand.value && key(inHand.value.end) === key(e) ? inHand.value.at : e.at)
watch(
  () => props.ends,
  () => !inHand.value?.dragging && (inHand.value = undefined),
)

/** The whole window in hand, by how many ms it is moved, and where the pointer took it. */
const moved = ref<{ whole: Whole; by: number; grip?: number }>()
watch(
  () => props.wholes,
  () => moved.value?.grip === undefined && (moved.value = undefined),
)
const byOf = (w: Whole) => (moved.value?.whole.window === w.window ? moved.value.by : 0)
const shifted = (w: Whole, t: Date) => new Date(t.getTime() + byOf(w))
const spanOf = (w: Whole) => {
  const [a, b] = [at(shifted(w, w.from)), at(shifted(w, w.until))]
  return { insetInlineStart: a + '%', width: b - a + '%' }
}
const msOf = (e: PointerEvent) => {
  const box = row.value!.getBoundingClientRect()
  return (
    ((e.clientX - box.left) / box.width) * (new Date(props.view.until).getTime() - new Date(props.view.from).getTime())
  )
}
function grab(whole: Whole, e: PointerEvent) {
  ;(e.target as HTMLElement).setPointerCapture(e.pointerId)
  moved.value = { whole, by: 0, grip: msOf(e) }
}
function pull(e: PointerEvent) {
  const m = moved.value
  if (m?.grip === undefined) return
  const start = m.whole.from.getTime()
  m.by = snapped(start + msOf(e) - m.grip, props.view.from, props.view.until).getTime() - start
}
function release() {
  const m = moved.value
  if (m?.grip === undefined) return
  moved.value = undefined
  if (Math.abs(m.by) >= 60_000) shift(m.whole, m.by)
}
function shift(whole: Whole, by: number) {
  moved.value = { whole, by }
  const put = (t: Date) => local(new Date(t.getTime() + by), props.view.zone)
  emit('shift', whole.window, put(whole.from), put(whole.until))
}
function stepWhole(whole: Whole, e: KeyboardEvent) {
  const hours = hoursOf(e)
  if (!hours) return
  e.preventDefault()
  shift(whole, byOf(whole) + hours * 3_600_000)
}
const sayWhole = (w: Whole) =>
  `${say(shifted(w, w.from), props.view.zone)} to ${say(shifted(w, w.until), props.view.zone)}`

/** A slider along the strip, in minutes, as assistive technology reads it. */
function slider(label: string, at: Date, text: string) {
  const minutes = (t: string | Date) => Math.round(new Date(t).getTime() / 60_000)
  return {
    role: 'slider',
    tabindex: 0,
    'aria-label': label,
    'aria-valuemin': minutes(props.view.from),
    'aria-valuemax': minutes(props.view.until),
    'aria-valuenow': minutes(at),
    'aria-valuetext': text,
  }
}
/** How many hours a key moves something by; 0 for another key. */
const hoursOf = (e: KeyboardEvent) =>
  ({ ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -24, PageUp: 24 })[e.key] ?? 0

function take(end: End, e: PointerEvent) {
  ;(e.target as HTMLElement).setPointerCapture(e.pointerId)
  inHand.value = { end, at: end.at, dragging: true }
}
function drag(e: PointerEvent) {
  if (!inHand.value?.dragging) return
  const box = row.value!.getBoundingClientRect()
  inHand.value.at = instantAt((e.clientX - box.left) / box.width, props.view.from, props.view.until)
}
function drop() {
  if (!inHand.value?.dragging) return
  const { end, at } = inHand.value
  inHand.value = undefined
  if (at.getTime() !== end.at.getTime()) put(end, at)
}
function put(end: End, at: Date) {
  inHand.value = { end, at }
  emit('move', end, local(at, props.view.zone))
}
function step(end: End, e: KeyboardEvent) {
  const hours = hoursOf(e)
  if (!hours) return
  e.preventDefault()
  put(end, new Date(where(end).getTime() + hours * 3_600_000))
}
</script>

<template>
  <div ref="row" class="row">
    <span
      v-for="i in intervals.filter(seen)"
      :key="i.from"
      class="stretch"
      :class="{ partly: i.partly, would: !out }"
      :style="span(i)"
      :title="`${name}: ${say(i.from, view.zone)} to ${say(i.until, view.zone)}`"
    ></span>
    <span
      v-for="i in (held ?? []).filter(seen)"
      :key="'held' + i.from"
      class="held"
      :style="span(i)"
      :title="`${name}: held back on ${view.page.path}, ${say(i.from, view.zone)} to ${say(i.until, view.zone)}`"
    ></span>
    <span
      v-for="w in wholes ?? []"
      :key="'whole' + w.window"
      class="whole"
      v-bind="slider(`All of time ${w.window + 1}`, shifted(w, w.from), sayWhole(w))"
      :title="`${sayWhole(w)}. Drag it to move all of it, or use the arrow keys.`"
      :style="spanOf(w)"
      @pointerdown="grab(w, $event)"
      @pointermove="pull"
      @pointerup="release"
      @pointercancel="moved = undefined"
      @keydown="stepWhole(w, $event)"
      ><b v-if="moved?.whole.window === w.window">{{ sayWhole(w) }}</b></span
    >
    <span
      v-for="e in ends ?? []"
      :key="key(e)"
      class="end"
      :class="e.end"
      v-bind="
        slider(
          names[e.end][0] + (e.end === 'countdown' ? '' : ` of time ${e.window + 1}`),
          where(e),
          say(where(e), view.zone),
        )
      "
      :title="`${names[e.end][1]} ${say(where(e), view.zone)}. Drag it, or use the arrow keys.`"
      :style="{ insetInlineStart: at(where(e)) + '%' }"
      @pointerdown="take(e, $event)"
      @pointermove="drag"
      @pointerup="drop"
      @pointercancel="inHand = undefined"
      @keydown="step(e, $event)"
      ><b v-if="inHand && key(inHand.end) === key(e)">{{ say(inHand.at, view.zone) }}</b></span
    >
    <span class="cursor" :style="{ insetInlineStart: at(view.at) + '%' }"></span>
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
.held {
  position: absolute;
  top: calc(50% - 7px);
  min-width: 3px;
  height: 14px;
  border: 1px solid var(--alarm);
  border-radius: 2px;
  background: repeating-linear-gradient(135deg, var(--sail) 0 3px, var(--alarm) 3px 5px);
}
.whole {
  position: absolute;
  top: calc(50% - 12px);
  z-index: 1;
  min-width: 6px;
  height: 24px;
  cursor: grab;
  touch-action: pan-y;
}
.whole:has(b) {
  border: 1px dashed var(--ink);
  cursor: grabbing;
}
.end {
  position: absolute;
  top: calc(50% - 12px);
  z-index: 2;
  width: 24px;
  height: 24px;
  margin-inline-start: -12px;
  cursor: ew-resize;
  touch-action: pan-y;
}
.end::after {
  position: absolute;
  inset: 2px 10px;
  border-radius: 2px;
  background: var(--ink);
  content: '';
}
/* The end of a countdown: a mark of its own above the line. */
.end.countdown::after {
  inset: 0 6px 8px;
  border: 2px solid var(--ink);
  border-radius: 50%;
  background: var(--sail);
}
.end b,
.whole b {
  position: absolute;
  bottom: 100%;
  inset-inline-start: 12px;
  padding: 0 6px;
  background: var(--ink);
  color: var(--sail);
  font: 600 12px/18px var(--text);
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
.cursor {
  pointer-events: none;
  position: absolute;
  inset-block: 0;
  border-inline-start: 2px solid var(--sea);
}
</style>
