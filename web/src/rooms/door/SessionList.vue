<script setup lang="ts">
// Where one is signed in, and the way to end it there.
import { ref, watch } from 'vue'
import { api, type SessionCard, type SessionList } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'
import { say } from '../../instruments/time'

const shown = defineModel<boolean>({ required: true })
const list = ref<SessionCard[]>([])
const { error, attempt } = useAttempts()
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone

const put = (work: () => Promise<SessionList>, done = '') =>
  attempt('list', async () => (list.value = (await work()).sessions), done)
watch(shown, (is) => is && put(() => api.sessions()))
</script>

<template>
  <el-dialog v-model="shown" title="Where you are signed in" width="min(94vw, 560px)">
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <ul class="plainlist">
      <li v-for="s in list" :key="s.id">
        <span>
          <b>{{ s.agent || 'An unknown browser' }}</b><template v-if="s.this">, this one</template><br />
          <span class="quiet small"
            >since {{ say(s.began, zone) }}, last used {{ say(s.seen, zone)
            }}<template v-if="s.address">, from {{ s.address }}</template></span
          >
        </span>
        <el-button v-if="!s.this" size="small" @click="put(() => api.endSession(s.id), 'Signed out there.')"
          >Sign out there<span class="unseen">, in {{ s.agent || 'an unknown browser' }}</span></el-button
        >
      </li>
    </ul>
    <template #footer>
      <el-button v-if="list.length > 1" @click="put(() => api.endSession(''), 'Signed out everywhere else.')"
        >Sign out everywhere else</el-button
      >
    </template>
  </el-dialog>
</template>

<style scoped>
li {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
</style>
