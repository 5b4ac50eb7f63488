<script setup lang="ts">
// A part of an audience's tree, with its parts: a group, a condition, or a
// saved audience. It is moved by its handle, with the mouse or with the arrow
// keys.
import { computed, ref } from 'vue'
import type { FactChoice, Verdict, Node } from '../../../api/client'
import ToolIcon from '../../../instruments/ToolIcon.vue'
import { wishes } from './facts'
import LeafEditor from './LeafEditor.vue'
import { groupOf, partsOf, type Group, type Place } from './tree'

const props = defineProps<{
  node: Node
  place: Place
  facts: FactChoice[]
  notices: { id: string; title: string }[]
  saved: string[]
  /** What each part answers at the viewpoint, by place. */
  answer: (place: Place) => Verdict | undefined
  dragged: Place | undefined
}>()
const emit = defineEmits<{
  change: [place: Place, node: Node | undefined]
  add: [group: Place, i: number, node: Node]
  duplicate: [place: Place]
  step: [place: Place, key: 'up' | 'down' | 'out' | 'in']
  drag: [place: Place | undefined]
  drop: [group: Place, i: number]
  save: [place: Place, name: string]
}>()

const group = computed(() => groupOf(props.node))
const parts = computed(() => partsOf(props.node))
const line = computed(() => (props.node.off ? undefined : props.answer(props.place)))
const marks: Record<string, string> = { true: 'yes', false: 'no', 'not yet': 'waits' }
const says: Record<string, string> = { true: 'holds', false: 'does not hold', 'not yet': 'not yet' }
const over = ref(-1)
const naming = ref(false)
const name = ref('')
const root = computed(() => props.place.length === 0)
const what = computed(() => (group.value ? 'group' : props.node.saved ? 'saved audience' : 'condition'))

function setGroup(to: Group) {
  const next: Node = { [to]: parts.value }
  if (props.node.off) next.off = true
  emit('change', props.place, next)
}
function setAside() {
  const next = { ...props.node }
  if (next.off) delete next.off
  else next.off = true
  emit('change', props.place, next)
}
function key(e: KeyboardEvent) {
  const to = ({ ArrowUp: 'up', ArrowDown: 'down', ArrowLeft: 'out', ArrowRight: 'in' } as const)[e.key]
  if (!to) return
  e.preventDefault()
  emit('step', props.place, to)
}
function save() {
  if (!name.value.trim()) return
  emit('save', props.place, name.value.trim())
  naming.value = false
  name.value = ''
}
const addLeaf = () => emit('add', props.place, parts.value.length, { ...wishes[2].node })
const addGroup = () =>
  emit('add', props.place, parts.value.length, { any: [{ ...wishes[0].node }, { ...wishes[1].node }] })
</script>

<template>
  <div class="part" :class="{ off: node.off, group, root }" :data-place="place.join('-')">
    <div class="row">
      <button
        v-if="!root"
        type="button"
        class="handle"
        draggable="true"
        :aria-label="`Move this ${what}: arrow keys up, down, out, into the group before`"
        title="Drag, or use the arrow keys"
        @dragstart="($event.dataTransfer?.setData('text/plain', place.join('-')), emit('drag', place))"
        @dragend="emit('drag', undefined)"
        @keydown="key"
      >
        ⋮⋮
      </button>
      <template v-if="group">
        <el-select :model-value="group" class="kind" aria-label="How these count" @change="setGroup">
          <el-option value="all" label="All of these hold" />
          <el-option value="any" label="Any of these holds" />
          <el-option value="none" label="None of these holds" />
        </el-select>
      </template>
      <span v-else-if="node.saved" class="saved">the saved audience “{{ node.saved }}”</span>
      <LeafEditor
        v-else
        :model-value="node"
        :facts="facts"
        :notices="notices"
        @update:model-value="(n) => emit('change', place, n)"
      />
      <span class="end">
        <span v-if="line" class="answer" :class="line.answer.replace(' ', '-')" :title="line.why"
          ><span aria-hidden="true">{{ marks[line.answer] }}</span
          ><span class="unseen">{{ says[line.answer] }} at the viewpoint: {{ line.why }}</span></span
        >
        <button
          v-if="group"
          type="button"
          class="tool"
          aria-label="Save this group as an audience"
          title="Save as an audience"
          @click="naming = !naming"
        >
          <ToolIcon name="keep" />
        </button>
        <template v-if="!root">
          <button
            type="button"
            class="tool"
            :aria-pressed="!!node.off"
            :aria-label="`Set this ${what} aside`"
            :title="node.off ? 'Count it again' : 'Set aside: keep it, but it counts for nothing'"
            @click="setAside"
          >
            <ToolIcon :name="node.off ? 'aside' : 'counts'" />
          </button>
          <button
            type="button"
            class="tool"
            :aria-label="`Duplicate this ${what}`"
            title="Duplicate"
            @click="emit('duplicate', place)"
          >
            <ToolIcon name="duplicate" />
          </button>
          <button
            type="button"
            class="tool"
            :aria-label="`Remove this ${what}`"
            title="Remove"
            @click="emit('change', place, undefined)"
          >
            ✕
          </button>
        </template>
      </span>
    </div>
    <p v-if="node.off" class="quiet small aside">Set aside; it counts for nothing.</p>
    <form v-if="naming" class="naming" @submit.prevent="save">
      <el-input
        v-model="name"
        size="small"
        placeholder="Name of the audience"
        aria-label="Name of the audience"
        maxlength="100"
      />
      <el-button size="small" native-type="submit">Save for use elsewhere</el-button>
    </form>
    <div v-if="group" class="parts">
      <template v-for="(p, i) in parts" :key="i">
        <div
          class="gap"
          :class="{ over: over === i, ready: dragged }"
          @dragover.prevent="over = i"
          @dragleave="over = -1"
          @drop.prevent="((over = -1), emit('drop', place, i))"
        ></div>
        <PartEditor
          :node="p"
          :place="[...place, i]"
          :facts="facts"
          :notices="notices"
          :saved="saved"
          :answer="answer"
          :dragged="dragged"
          @change="(at, n) => emit('change', at, n)"
          @add="(at, j, n) => emit('add', at, j, n)"
          @duplicate="(at) => emit('duplicate', at)"
          @step="(at, k) => emit('step', at, k)"
          @drag="(at) => emit('drag', at)"
          @drop="(at, j) => emit('drop', at, j)"
          @save="(at, n) => emit('save', at, n)"
        />
      </template>
      <div
        class="gap"
        :class="{ over: over === parts.length, ready: dragged }"
        @dragover.prevent="over = parts.length"
        @dragleave="over = -1"
        @drop.prevent="((over = -1), emit('drop', place, parts.length))"
      ></div>
      <div class="adds">
        <el-button size="small" text @click="addLeaf">Add a condition</el-button>
        <el-button size="small" text @click="addGroup">Add a group</el-button>
        <el-select
          v-if="saved.length"
          model-value=""
          size="small"
          class="from"
          aria-label="Add a saved audience"
          placeholder="Add a saved audience"
          @change="(s: string) => emit('add', place, parts.length, { saved: s })"
        >
          <el-option v-for="s in saved" :key="s" :value="s" :label="s" />
        </el-select>
      </div>
    </div>
  </div>
</template>

<style scoped>
.part.group {
  border-inline-start: 2px solid var(--line);
  padding-inline-start: 8px;
}
.part.group.root {
  border: 0;
  padding: 0;
}
.row {
  display: flex;
  gap: 4px;
  align-items: flex-start;
}
.off > .row > .leaf,
.off > .row > .kind,
.off > .row > .saved,
.off > .parts {
  opacity: 0.6;
}
.kind {
  width: 180px;
}
.saved {
  padding: 5px 0;
}
.handle,
.tool {
  min-width: 26px;
  height: 28px;
  padding: 0 4px;
  border: 0;
  border-radius: 3px;
  background: none;
  color: var(--ink-2);
  cursor: pointer;
}
.handle {
  cursor: grab;
  letter-spacing: -3px;
}
.handle:hover,
.tool:hover {
  background: var(--chart);
  color: var(--ink);
}
.end {
  display: inline-flex;
  align-items: center;
  margin-inline-start: auto;
}
.answer {
  margin-inline-end: 6px;
  font: 600 12px/28px var(--head);
}
.answer.true {
  color: var(--live);
}
.answer.false {
  color: var(--alarm);
}
.answer.not-yet {
  color: var(--wait);
}
.aside {
  margin: 0 0 0 30px;
}
.naming {
  display: flex;
  gap: 6px;
  max-width: 380px;
  padding: 4px 0;
}
.parts {
  padding-inline-start: 4px;
}
.gap {
  height: 6px;
}
.gap.ready {
  height: 12px;
}
.gap.over {
  background: var(--sea);
}
.adds {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
}
.adds .el-button {
  margin: 0;
}
.from {
  width: 180px;
}
@media (max-width: 560px) {
  .row {
    flex-wrap: wrap;
  }
  .row > .leaf {
    flex-basis: calc(100% - 40px);
  }
  .parts {
    padding-inline-start: 0;
  }
}
</style>
