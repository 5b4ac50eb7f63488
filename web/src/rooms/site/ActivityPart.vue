<script setup lang="ts">
// Who did what, the newest first.
import { ref, watch } from 'vue'
import { api, type Activity } from '../../api/client'
import { reason } from '../../instruments/attempts'
import { latest } from '../../instruments/latest'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'

const { site, view } = useViewpoint()
const list = ref<Activity>()
const who = ref('')
const error = ref('')
watch(
  [site, who],
  latest(
    () => api.activity(site.value, who.value),
    (a) => {
      list.value = a
      error.value = ''
    },
    (e) => (error.value = reason(e)),
  ),
  { immediate: true },
)
</script>

<template>
  <section aria-labelledby="activity">
    <div class="top">
      <h2 id="activity">Activity</h2>
      <el-select
        v-model="who"
        :empty-values="[null, undefined]"
        aria-label="Whose activity"
        placeholder="everyone"
        clearable
        @clear="who = ''"
      >
        <el-option value="" label="everyone" />
        <el-option v-for="p in list?.people ?? []" :key="p.id" :value="p.id" :label="p.name" />
      </el-select>
    </div>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <ol v-if="list?.deeds.length" class="plainlist">
      <li v-for="d in list.deeds" :key="d.id">
        <time class="quiet small">{{ view && say(d.at, view.zone) }}</time>
        <span>
          <template v-if="d.notice"
            ><router-link :to="{ name: 'notice', params: { site, notice: d.notice } }">{{
              d.title || d.notice
            }}</router-link
            >:
          </template>
          {{ d.who }} {{ d.act }} <br /><span class="quiet small">{{ d.line }}</span>
        </span>
      </li>
    </ol>
    <p v-else-if="list" class="quiet">Nothing has been done yet.</p>
  </section>
</template>

<style scoped>
.top {
  display: flex;
  gap: 16px;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 8px;
}
.top .el-select {
  width: 200px;
}
li {
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 12px;
  padding: 5px 0;
  border-top: 1px solid var(--line);
}
@media (max-width: 560px) {
  li {
    grid-template-columns: 1fr;
    gap: 0;
  }
}
</style>
