<script setup lang="ts">
// What has to be said of a notice before anything else, and what was handed out of it.
import { mayWrite } from '../../instruments/me'
import { useNotice } from './room'

const { detail, saving, why, settle, handed } = useNotice()
</script>

<template>
  <div v-if="!mayWrite" class="band plain" role="status">
    You are a viewer: look at everything, change nothing. What you try is not kept.
  </div>
  <div v-if="saving === 'stale'" class="band" role="alert">
    <span
      >Someone else changed this notice after you opened it. Nothing is lost: what you wrote is in the history
      too.</span
    >
    <el-button size="small" @click="settle(false)">See theirs</el-button>
    <el-button size="small" @click="settle(true)">Overwrite with mine</el-button>
  </div>
  <div v-else-if="why" class="band" role="alert">
    {{ why
    }}<template v-if="saving === 'offline'">
      What you wrote is kept here and saved as soon as that works again.</template
    >
  </div>
  <div v-if="detail?.card.leftOut" class="band" role="alert">
    {{ detail.card.leftOut }}. Change what it names, and publish; until then nothing of it is lost.
  </div>
  <div v-if="handed" class="band plain">
    <el-input
      :model-value="handed.text"
      :type="handed.long ? 'textarea' : 'text'"
      :rows="4"
      readonly
      :aria-label="handed.name"
      size="small"
    />
    <el-button size="small" text @click="handed = undefined">Done</el-button>
    <div v-if="handed.lacks.length" class="lacks small">
      Unlike the notice:
      <ul>
        <li v-for="what in handed.lacks" :key="what">{{ what }}</li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.band {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin-top: 8px;
  padding: 6px 12px;
  background: var(--alarm-bg);
  color: var(--alarm);
}
.lacks {
  flex: 1 0 100%;
}
.lacks ul {
  margin: 2px 0 0;
  padding-inline-start: 20px;
}
.band.plain .el-textarea,
.band.plain .el-input {
  flex: 1;
}
.band.plain {
  background: var(--chart);
  color: var(--ink);
}
</style>
