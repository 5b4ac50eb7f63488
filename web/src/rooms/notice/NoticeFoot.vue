<script setup lang="ts">
// Why the draft would show here or not, what was found in it, and its life so far.
import { computed } from 'vue'
import type { Operation } from '../../api/client'
import { attempt } from '../../instruments/attempts'
import Gates from '../../instruments/Gates.vue'
import { tell } from '../../instruments/tell'
import { useViewpoint } from '../../instruments/viewpoint'
import { useCommands } from './commands'
import NoticeHistory from './NoticeHistory.vue'
import { patched } from './patch'
import { useNotice } from './room'

const { view, look } = useViewpoint()
const { id, site, detail, notice, pending, blocked, undo } = useNotice()
const { command } = useCommands()

const elsewhere = computed(() => (blocked.value?.gate === 'pages' ? (detail.value?.onPages ?? []) : []))
const restore = (line: number) => command('restore', 'That text is your draft now.', { history: line })
/** Carries out what a finding offers. */
const applyFix = (label: string, patch: Operation[]) =>
  attempt(async () => {
    if (!notice.value) return
    notice.value = patched(notice.value, patch)
    tell(`Done: ${label}.`, 'success', () => undo())
  })
</script>

<template>
  <div v-if="detail && view" class="foot">
    <section aria-labelledby="seen">
      <h2 id="seen">On {{ view.page.path }} at this moment<template v-if="pending">, once published</template></h2>
      <Gates :account="detail.rehearsal" />
      <p v-if="elsewhere.length" class="small">
        It shows on
        <button class="word" @click="look({ page: elsewhere[0] })">{{ elsewhere[0] }}</button><template
          v-if="elsewhere.length > 1"
        >
          and {{ elsewhere.length - 1 }} more pages</template
        >.
      </p>
    </section>
    <section aria-labelledby="found">
      <h2 id="found">Findings</h2>
      <ul v-if="detail.findings.length" class="plainlist findings">
        <li v-for="f in detail.findings" :key="f.code + f.pointers[0]" :class="`of-${f.severity}`">
          {{ f.what }} <span class="quiet">{{ f.fix }}</span>
          <span v-if="f.notices[0] === id && f.fixes?.length" class="fixes">
            <el-button v-for="m in f.fixes" :key="m.label" size="small" @click="applyFix(m.label, m.patch)">{{
              m.label
            }}</el-button>
          </span>
        </li>
      </ul>
      <p v-else class="quiet">No problems found.</p>
    </section>
    <NoticeHistory :site="site" :notice="id" :detail="detail" :zone="view.zone" @restore="restore" />
  </div>
</template>

<style scoped>
.foot {
  display: grid;
  grid-template-columns: 5fr 4fr 4fr;
  gap: 16px 32px;
  margin-top: 20px;
  padding-top: 14px;
  border-top: 1px solid var(--line);
}
.foot h2 {
  margin-bottom: 6px;
}
.foot p {
  margin: 4px 0;
}
.fixes {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-top: 4px;
}
.fixes .el-button {
  margin: 0;
}
.findings {
  display: grid;
  gap: 6px;
}
.findings li {
  padding-inline-start: 8px;
  border-inline-start: 3px solid var(--line);
}
.findings .of-error {
  border-color: var(--alarm);
}
.findings .of-warning {
  border-color: var(--wait);
}
@media (max-width: 1000px) {
  .foot {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
