<script setup lang="ts">
// What was found, and is not in the inventory.
import type { DetectedItem, KnownItem } from '../../api/client'
import { mayManage } from '../../instruments/me'
import { kinds, lasting } from './consent'

/** `elsewhere` are rows of the installation's other sites that some of it fits. */
const props = defineProps<{ things: DetectedItem[]; elsewhere: KnownItem[] }>()
defineEmits<{ place: [thing: DetectedItem]; take: [row: KnownItem] }>()
const knownOf = (t: DetectedItem) =>
  props.elsewhere.find((k) => k.kind === t.kind && k.name === t.name && k.host === (t.host ?? ''))
const whatIs = (t: DetectedItem) => `${kinds[t.kind]}${t.host ? ` of ${t.host}` : ''}, ${lasting(t.lasts) || 'fetched'}`
const where = (t: DetectedItem) => [t.seen[0]?.page, t.seen[0]?.by && `by ${t.seen[0].by}`].filter(Boolean).join(', ')
</script>

<template>
  <div class="strangers">
    <h3>Found, and not in the inventory</h3>
    <ul class="plainlist">
      <li v-for="t in things" :key="t.kind + t.name + t.host">
        <span>
          <code>{{ t.name }}</code> <span class="quiet small">{{ whatIs(t) }}</span>
          <b v-if="t.leaks" class="leak">leaks</b><br />
          <span class="quiet small">{{ where(t) }}</span>
        </span>
        <span v-if="mayManage" class="acts">
          <el-button v-if="knownOf(t)" size="small" type="primary" @click="$emit('take', knownOf(t)!)"
            >As in {{ knownOf(t)!.from }}: {{ knownOf(t)!.item.purpose }}</el-button
          >
          <el-button size="small" @click="$emit('place', t)">Say what it is for</el-button>
        </span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
h3 {
  margin: 12px 0 4px;
  font-size: 14px;
}
.leak {
  color: var(--alarm);
}
.strangers {
  margin: 8px 0;
  padding: 0 12px 10px;
  border: 1px solid var(--wait);
  border-radius: 3px;
  background: var(--wait-bg);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.acts .el-button {
  margin: 0;
}
code,
.small {
  margin-inline-end: 8px;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  justify-content: space-between;
  overflow-wrap: anywhere;
}
</style>
