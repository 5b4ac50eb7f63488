<script setup lang="ts">
// Where one is signed in, and the way to end it there.
import { ref, watch } from 'vue'
import { api, CallError, type SessionCard } from '../../api/client'
import { tell } from '../../instruments/tell'
import { say } from '../../instruments/time'

const shown = defineModel<boolean>({ required: true })
const list = ref<SessionCard[]>([])
const error = ref('')
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone

async function attempt(work: () => Promise<{ sessions: SessionCard[] }>, done = '') {
  error.value = ''
  try {
    list.value = (await work()).sessions
    if (done) tell(done)
  } catch (e) {
    error.value = (e as CallError).message
  }
}
watch(shown, (is) => is && attempt(() => api.sessions()))
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
        <el-button v-if="!s.this" size="small" @click="attempt(() => api.endSession(s.id), 'Signed out there.')"
          >Sign out there<span class="unseen">, in {{ s.agent || 'an unknown browser' }}</span></el-button
        >
      </li>
    </ul>
    <template #footer>
      <el-button v-if="list.length > 1" @click="attempt(() => api.endSession(''), 'Signed out everywhere else.')"
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
