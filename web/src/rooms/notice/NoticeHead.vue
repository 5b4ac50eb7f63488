<script setup lang="ts">
// What a notice is called and how it stands, and what can be done with it as a whole.
import { computed } from 'vue'
import Halyard from '../../instruments/Halyard.vue'
import { mayWrite } from '../../instruments/me'
import { tell } from '../../instruments/tell'
import { useCommands } from './commands'
import { useKept } from './kept'
import { useNotice } from './room'

const {
  id,
  detail: known,
  notice,
  siteDetail,
  saving,
  undo,
  redo,
  canUndo,
  canRedo,
  out,
  pending,
  isBlock,
  isCode,
  standsInPages,
  wordings,
  takingOff,
} = useNotice()
const { command, publish, remove, takeOffEverywhere, duplicate, previewLink, copyPlain } = useCommands()
const { saveStarting, saveWording, wordingOf } = useKept()

const card = computed(() => known.value!.card)
const nameForLater = computed(() => notice.value?.title || id)
const publishing = computed(() => (out.value ? 'Publish the changes' : 'Publish'))
const canResume = computed(() => out.value && card.value.flag === 'paused' && !card.value.leftOut)
const canPause = computed(() => out.value && card.value.flag !== 'paused')
const savingWords = {
  saved: 'Saved',
  unsaved: 'Saving…',
  saving: 'Saving…',
  offline: 'Not saved',
  refused: 'Not saved yet',
  stale: 'Changed by someone else',
}
const resume = () => command('resume', 'Resumed.')
const pause = () => command('pause', 'Paused. No visitor sees it until you resume it.')
const discard = () => command('discard', 'The draft is discarded. It is kept in the history.')
/** Takes words that were kept, in all their languages. */
function useWording(name: string) {
  wordings.value = { ...wordings.value, ...wordingOf(name) }
  tell(`The words of “${name}” are in.`, 'success', () => undo())
}
</script>

<template>
  <div v-if="notice" class="head">
    <Halyard :flag="card.flag" :draft="card.hasDraft" />
    <h1 class="unseen">{{ notice.title }}</h1>
    <input
      v-model="notice.title"
      class="title"
      aria-label="Working title, only you see it"
      maxlength="200"
      placeholder="Working title"
    />
    <span class="saving small" :class="saving" role="status">{{ savingWords[saving] }}</span>
    <el-button v-if="canUndo" text size="small" title="Undo  Ctrl Z" @click="undo">Undo</el-button>
    <el-button v-if="canRedo" text size="small" title="Redo  Ctrl Shift Z" @click="redo">Redo</el-button>
    <span class="grow"></span>
    <template v-if="mayWrite">
      <el-button v-if="pending" type="primary" @click="publish">{{ publishing }}</el-button>
      <el-button v-if="canResume" @click="resume">Resume</el-button>
      <el-button v-if="canPause" @click="pause">Pause</el-button>
      <el-button v-if="standsInPages" :aria-expanded="takingOff" @click="takingOff = !takingOff">Take it off</el-button>
      <el-button v-else-if="out" @click="takeOffEverywhere">Unpublish</el-button>
    </template>
    <el-dropdown trigger="click">
      <el-button aria-label="More commands">More ▾</el-button>
      <template #dropdown>
        <el-dropdown-menu>
          <el-dropdown-item v-if="card.hasDraft" @click="discard">Discard the draft</el-dropdown-item>
          <el-dropdown-item @click="previewLink">Copy a preview link</el-dropdown-item>
          <el-dropdown-item v-if="!isCode" @click="copyPlain">Copy as plain HTML</el-dropdown-item>
          <el-dropdown-item @click="duplicate">Duplicate</el-dropdown-item>
          <el-dropdown-item @click="saveStarting(nameForLater, notice)">Save as starting point</el-dropdown-item>
          <el-dropdown-item @click="saveWording(nameForLater, wordings)">Keep its words</el-dropdown-item>
          <el-dropdown-item v-for="w in siteDetail?.site.wordings ?? []" :key="w.name" @click="useWording(w.name)"
            >Use the words of “{{ w.name }}”</el-dropdown-item
          >
          <el-dropdown-item v-if="!isBlock && !isCode" @click="remove">Delete</el-dropdown-item>
        </el-dropdown-menu>
      </template>
    </el-dropdown>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 10px;
}
.head .el-button {
  margin: 0;
}
.title {
  flex: 0 1 340px;
  min-width: 120px;
  padding: 2px 6px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  color: var(--ink);
  font: 650 20px/1.3 var(--head);
  font-stretch: 88%;
}
.title:hover,
.title:focus {
  border-color: var(--line);
}
.saving {
  color: var(--ink-2);
}
.saving.offline,
.saving.refused,
.saving.stale {
  color: var(--alarm);
}
.grow {
  flex: 1;
}
</style>
