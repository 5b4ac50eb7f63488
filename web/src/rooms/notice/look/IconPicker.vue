<script setup lang="ts">
// An icon for a notice, searched by what it is for.
import { onClickOutside, useDebounceFn } from '@vueuse/core'
import { nextTick, ref, useTemplateRef } from 'vue'
import { api, type Icon } from '../../../api/client'

const icon = defineModel<string>({ required: true })
const open = ref(false)
const find = ref('')
const icons = ref<Icon[]>([])
const own = ref('')
const box = useTemplateRef<HTMLElement>('box')
onClickOutside(box, () => (open.value = false))

async function look() {
  icons.value = (await api.icons(find.value).catch(() => ({ icons: [] }))).icons
}
const lookSoon = useDebounceFn(look, 150)
async function begin() {
  open.value = !open.value
  if (!open.value) return
  await look()
  await nextTick()
  box.value?.querySelector('input')?.focus()
}
/** The chosen icon's own picture. */
async function drawn() {
  own.value = icon.value
    ? ((await api.icons(icon.value).catch(() => ({ icons: [] }))).icons.find((i) => i.name === icon.value)?.svg ?? '')
    : ''
}
void drawn()
function choose(name: string) {
  icon.value = name
  open.value = false
  void nextTick(drawn)
}
</script>

<template>
  <div ref="box" class="icon-picker" @keydown.esc.stop="open = false">
    <span class="label">Icon</span>
    <!-- eslint-disable-next-line vue/no-v-html -- SVG of the set that ships -->
    <span v-if="own" class="now" v-html="own"></span>
    <el-button size="small" :aria-expanded="open" @click="begin">{{
      icon ? 'Another icon' : 'Choose an icon'
    }}</el-button>
    <el-button v-if="icon" size="small" text @click="choose('')">No icon</el-button>
    <div v-if="open" class="panel" role="dialog" aria-label="Icons">
      <el-input
        v-model="find"
        size="small"
        placeholder="What is it for? storm, hours, sale…"
        aria-label="Find an icon"
        @input="lookSoon"
      />
      <div class="grid">
        <!-- eslint-disable vue/no-v-html -- SVG of the set that ships -->
        <button
          v-for="i in icons"
          :key="i.name"
          type="button"
          :title="i.name.replaceAll('-', ' ')"
          :aria-label="i.name.replaceAll('-', ' ')"
          :aria-pressed="i.name === icon"
          @click="choose(i.name)"
          v-html="i.svg"
        ></button>
      </div>
      <p v-if="icons.length === 0" class="quiet small">No icon is called that. Try another word, in English.</p>
    </div>
  </div>
</template>

<style scoped>
.icon-picker {
  position: relative;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.icon-picker .el-button {
  margin: 0;
}
.label {
  width: 72px;
  color: var(--ink-2);
}
.now {
  display: inline-flex;
}
.panel {
  position: absolute;
  z-index: 25;
  top: calc(100% + 4px);
  inset-inline-start: 0;
  width: min(400px, calc(100vw - 24px));
  padding: 10px;
  border: 1px solid var(--ink-2);
  border-radius: 3px;
  background: var(--sail);
  box-shadow: var(--float);
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, 34px);
  gap: 2px;
  max-height: 220px;
  margin-top: 8px;
  overflow: auto;
}
.grid button {
  display: grid;
  place-items: center;
  width: 34px;
  height: 34px;
  padding: 0;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  color: var(--ink);
  cursor: pointer;
}
.grid button:hover {
  background: var(--chart);
}
.grid button[aria-pressed='true'] {
  border-color: var(--sea);
}
</style>
