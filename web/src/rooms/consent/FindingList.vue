<script setup lang="ts">
// What would not hold up in law, each with the text it follows from and what would
// fix it, done at a press where that can be.
import type { Finding } from '../../api/client'
import { mayManage, mayWrite } from '../../instruments/me'
import { useConsent } from './consent'

defineProps<{ findings: Finding[] }>()
const { site, busy, applyFix } = useConsent()
const mark = (f: Finding) => ({ error: 'Fix', warning: 'Look', info: 'Note' })[f.severity]
const may = (f: Finding) => (f.notices.length ? mayWrite.value : mayManage.value)
</script>

<template>
  <ul class="plainlist">
    <li v-for="f in findings" :key="f.code + f.pointers[0] + f.what">
      <b :class="`of-${f.severity}`">{{ mark(f) }}</b>
      <span>
        {{ f.what }}
        <router-link v-if="f.notices[0]" :to="{ name: 'notice', params: { site, notice: f.notices[0] } }">{{
          f.fix
        }}</router-link>
        <template v-else>{{ f.fix }}</template>
        <span v-if="f.source" class="source small">{{ f.source }}</span>
        <span v-if="may(f) && f.fixes?.length" class="fixes">
          <el-button
            v-for="m in f.fixes"
            :key="m.label"
            size="small"
            :loading="busy === 'fix'"
            @click="applyFix(f, m.patch)"
            >{{ m.label }}</el-button
          >
        </span>
      </span>
    </li>
  </ul>
</template>

<style scoped>
ul {
  display: grid;
  gap: 8px;
}
li {
  display: grid;
  grid-template-columns: 44px minmax(0, 1fr);
  gap: 8px;
  overflow-wrap: anywhere;
}
.of-error {
  color: var(--alarm);
}
.of-warning {
  color: var(--wait);
}
.source {
  display: block;
  color: var(--ink-2);
}
.fixes {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 4px;
}
.fixes .el-button {
  margin: 0;
}
</style>
