<script setup lang="ts">
// For whom: the audience's tree, edited in place, with what each part answers
// at the viewpoint.
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import type { Account, Node } from '../../../api/client'
import { useFacts, wishes } from '../audience/facts'
import PartEditor from '../audience/PartEditor.vue'
import { asRoot, at, groupOf, insert, move, partsOf, pointer, put, step, type Place } from '../audience/tree'
import { clone } from '../../../instruments/clone'

const props = defineProps<{ account: Account; saved: string[]; notices: { id: string; title: string }[] }>()
const audience = defineModel<Node | undefined>({ required: true })
const emit = defineEmits<{ save: [name: string, node: Node, then: () => void] }>()

const facts = useFacts()
const root = computed(() => asRoot(audience.value))
const alone = computed(() => !!audience.value && !groupOf(audience.value))
const box = useTemplateRef<HTMLElement>('box')
const dragged = ref<Place>()
const lines = computed(() => props.account.steps.find((s) => s.gate === 'audience')?.parts ?? [])
const answer = (place: Place) => lines.value.find((l) => l.pointer === pointer(root.value, place, alone.value))

function set(next: Node) {
  audience.value = partsOf(next).length ? next : undefined
}
function change(place: Place, node: Node | undefined) {
  set(put(root.value, place, () => node))
}
function duplicate(place: Place) {
  set(insert(root.value, place.slice(0, -1), place[place.length - 1] + 1, clone(at(root.value, place))))
}
function byKey(place: Place, key: 'up' | 'down' | 'out' | 'in') {
  const next = step(root.value, place, key)
  set(next.root)
  nextTick(() =>
    box.value?.querySelector<HTMLElement>(`[data-place="${next.place.join('-')}"] > .row > .handle`)?.focus(),
  )
}
function drop(group: Place, i: number) {
  if (dragged.value) set(move(root.value, dragged.value, group, i))
  dragged.value = undefined
}
function save(place: Place, name: string) {
  const node = at(root.value, place)
  emit('save', name, node, () => (place.length ? change(place, { saved: name }) : set({ all: [{ saved: name }] })))
}
</script>

<template>
  <div ref="box" class="audience">
    <p class="quiet small lead">Show it to visitors who…</p>
    <div class="wishes">
      <el-button
        v-for="w in wishes"
        :key="w.label"
        size="small"
        @click="set(insert(root, [], partsOf(root).length, clone(w.node)))"
        >{{ w.label }}</el-button
      >
    </div>
    <p v-if="!audience" class="quiet">It is for everyone.</p>
    <PartEditor
      v-if="facts"
      v-show="audience || partsOf(root).length"
      :node="root"
      :place="[]"
      :facts="facts.facts"
      :notices="notices"
      :saved="saved"
      :answer="answer"
      :dragged="dragged"
      @change="change"
      @add="(g, i, n) => set(insert(root, g, i, n))"
      @duplicate="duplicate"
      @step="byKey"
      @drag="(p) => (dragged = p)"
      @drop="drop"
      @save="save"
    />
    <el-button v-if="audience" size="small" text class="everyone" @click="audience = undefined"
      >Show it to everyone</el-button
    >
  </div>
</template>

<style scoped>
.audience {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
}
.lead,
.audience p {
  margin: 0;
}
.wishes {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.wishes .el-button {
  margin: 0;
}
.everyone {
  justify-self: start;
}
</style>
