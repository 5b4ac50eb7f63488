<script setup lang="ts">
// A notice: its order line, its words, its colours, the stage, its time.
import { onKeyStroke } from '@vueuse/core'
import { onBeforeUnmount } from 'vue'
import { api } from '../../api/client'
import { attempt } from '../../instruments/attempts'
import { intoText } from '../../instruments/shortcuts'
import { tell } from '../../instruments/tell'
import { useViewpoint } from '../../instruments/viewpoint'
import { useSite } from '../../state/sites'
import { wasOnlyBegun } from './begin'
import CodeEditor from './code/CodeEditor.vue'
import { useCommands } from './commands'
import CopyPart from './CopyPart.vue'
import { useKept } from './kept'
import LanguagesPanel from './LanguagesPanel.vue'
import NoticeBands from './NoticeBands.vue'
import NoticeFoot from './NoticeFoot.vue'
import NoticeHead from './NoticeHead.vue'
import OrderEditor from './OrderEditor.vue'
import { provideNotice } from './room'
import ResultLine from './ResultLine.vue'
import RulesPart from './RulesPart.vue'
import StagePart from './StagePart.vue'
import TakeOff from './TakeOff.vue'
import TimePart from './TimePart.vue'
import WordsPart from './WordsPart.vue'

const { view, refresh } = useViewpoint()
const room = provideNotice()
const { id, site, siteDetail, detail, notice, missing, saving, undo, redo, canUndo, load, content, wordings } = room
const { picture, countdown, asks, known, isCode, order, stage, sideBySide, takingOff, spotIsOneMore } = room
const { takeOffPage, takeOffEverywhere, remove, draftIn } = useCommands(room)
const { saveAudience, savePages } = useKept()
void attempt(useSite().open)
const setOrder = (c: unknown) => (order.value = c as typeof order.value)

onKeyStroke(['z', 'Z'], (e) => {
  // In a text the browser's own undo is meant.
  if (!(e.ctrlKey || e.metaKey) || intoText(e)) return
  e.preventDefault()
  void (e.shiftKey ? redo() : undo())
})
function point(more: boolean) {
  spotIsOneMore.value = more
  stage.value?.point()
}
/** What was only begun, and left as it was, is nobody's draft. */
onBeforeUnmount(async () => {
  const card = detail.value?.card
  const mine = site.value
  if (!card || !wasOnlyBegun(mine, id) || card.flag !== 'draft' || canUndo.value || saving.value !== 'saved') return
  await api.act(mine, id, 'delete', {}, { revision: card.revision }).catch(() => undefined)
  await refresh()
  tell('The empty draft is not kept.', 'success', async () => {
    await api.act(mine, id, 'undelete', {}, { revision: 0 })
    await refresh()
  })
})
</script>

<template>
  <div v-if="missing" class="missing">
    <h1>This notice is not here</h1>
    <p>It was deleted, or never was. <router-link :to="{ name: 'now', params: { site } }">All notices</router-link></p>
  </div>
  <div v-else-if="detail && notice && view" class="notice-room">
    <NoticeHead />
    <TakeOff
      v-if="takingOff"
      :detail="detail"
      :page="view.page.path"
      @page="takeOffPage"
      @everywhere="takeOffEverywhere"
      @delete="remove"
      @close="takingOff = false"
    />
    <NoticeBands />
    <OrderEditor
      :ref="setOrder"
      v-model="notice"
      :detail="detail"
      :view="view"
      :site="siteDetail"
      @save-audience="saveAudience"
      @save-pages="savePages"
      @point="point"
    />
    <ResultLine :site="site" :notice="id" />
    <RulesPart />
    <CopyPart v-if="detail.original" v-model="notice" :original="detail.original" :site="site" />
    <LanguagesPanel
      v-if="sideBySide && siteDetail"
      v-model="wordings"
      :detail="detail"
      :site="siteDetail"
      :known="known"
      :picture="!!picture && !picture.decorative"
      :countdown="countdown"
      :asks="asks"
      :rows="content.rows"
      @draft="draftIn"
      @taken="load()"
      @close="sideBySide = false"
    />
    <div v-else class="bench" :class="{ even: isCode }">
      <CodeEditor v-if="isCode" v-model="content" class="write" :site="siteDetail" />
      <WordsPart v-else />
      <StagePart />
    </div>
    <TimePart />
    <NoticeFoot />
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: 400px minmax(0, 1fr);
  gap: 20px;
}
.bench.even {
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
}
.write {
  display: grid;
  gap: 12px;
  align-content: start;
}
@media (max-width: 1000px) {
  .bench,
  .bench.even {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
