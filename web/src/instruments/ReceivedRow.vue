<script setup lang="ts">
// A message that came by a feed: what it says, how grave it is, what became of
// it; approved or refused while it waits.
import type { ReceivedCard } from '../api/client'
import { mayWrite } from './me'
import { say } from './time'

defineProps<{ message: ReceivedCard; zone: string; site: string; busy?: boolean }>()
defineEmits<{ approve: []; refuse: [] }>()

const kinds: Record<ReceivedCard['kind'], string> = {
  alert: 'New alert',
  update: 'Update',
  cancel: 'End',
  other: 'Answer',
  broken: 'Not readable',
}
const standings: Record<ReceivedCard['standing'], string> = {
  waiting: 'waits for you',
  out: 'is out',
  replaced: 'was updated',
  ended: 'has ended',
  refused: 'was refused',
  expired: 'is over',
  ignored: 'is not shown',
  broken: 'cannot be read',
}
const act: Partial<Record<ReceivedCard['kind'], string>> = {
  alert: 'Publish it',
  update: 'Publish the update',
  cancel: 'End the alert',
}
</script>

<template>
  <div class="received" :class="message.standing">
    <p class="line">
      <b>{{ kinds[message.kind] }}</b><template v-if="message.level"
        >, <span class="level" :class="message.level">{{ message.level }}</span></template
      >: {{ message.headline }}
    </p>
    <p class="quiet small">
      <span class="standing">{{ standings[message.standing] }}</span> · {{ message.feedTitle }},
      {{ say(message.at, zone) }}<template v-if="message.judged"> · {{ message.judged }}</template
      ><template v-if="message.areas.length"> · {{ message.areas.join(', ') }}</template
      ><template v-if="message.until && message.standing !== 'ended'"> · until {{ say(message.until, zone) }}</template>
    </p>
    <p v-if="message.text" class="small">{{ message.text }}</p>
    <p v-if="message.why" class="small why">{{ message.why }}</p>
    <details v-if="message.raw" class="small">
      <summary>As it came</summary>
      <pre>{{ message.raw }}</pre>
    </details>
    <p v-if="message.standing === 'waiting' && mayWrite" class="acts">
      <el-button size="small" type="primary" :loading="busy" @click="$emit('approve')">{{
        act[message.kind]
      }}</el-button>
      <el-button size="small" :disabled="busy" @click="$emit('refuse')">Refuse it</el-button>
    </p>
    <p v-else-if="message.notice && message.standing === 'out'" class="small">
      <router-link :to="{ name: 'notice', params: { site, notice: message.notice } }">Its notice</router-link>
    </p>
  </div>
</template>

<style scoped>
.received {
  padding: 8px 0;
}
p {
  margin: 0 0 2px;
  overflow-wrap: anywhere;
}
.waiting .standing {
  color: var(--wait);
  font-weight: 600;
}
.level.emergency,
.broken .why {
  color: var(--alarm);
}
.level {
  font-weight: 600;
}
summary {
  cursor: pointer;
}
pre {
  max-height: 240px;
  margin: 4px 0;
  overflow: auto;
  font-size: 12px;
  white-space: pre-wrap;
}
.acts {
  display: flex;
  gap: 6px;
  margin-top: 6px;
}
.acts .el-button {
  margin: 0;
}
</style>
