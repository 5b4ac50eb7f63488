<script setup lang="ts">
// The stage: the site's real page in a frame with the real site script at work
// on it, at three widths.
import { useElementSize, useEventListener } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'

const props = defineProps<{ address: string; token: string; notice: string; why: string }>()

const widths = [
  { px: 390, label: 'Phone' },
  { px: 820, label: 'Tablet' },
  { px: 1280, label: 'Desktop' },
]
const width = ref(1280)
const box = useTemplateRef<HTMLElement>('box')
const frame = useTemplateRef<HTMLIFrameElement>('frame')
const { width: room, height: high } = useElementSize(box)
const scale = computed(() => Math.min(1, (room.value || width.value) / width.value))
const src = computed(() => (props.address && props.token ? `${props.address}#mastflag-preview=${encodeURIComponent(props.token)}` : ''))

/** What the site script last said; undefined until it has. */
const placed = ref<string[]>()
const silent = ref(false)
let patience: ReturnType<typeof setTimeout>
watch(
  src,
  () => {
    placed.value = undefined
    silent.value = false
    clearTimeout(patience)
    patience = setTimeout(() => (silent.value = placed.value === undefined), 6000)
  },
  { immediate: true },
)
useEventListener(window, 'message', (e: MessageEvent) => {
  if (e.source !== frame.value?.contentWindow || e.data?.mastflag !== 'placed') return
  placed.value = e.data.ids
  silent.value = false
})

/** Has the page ask again what to show. */
function refresh() {
  frame.value?.contentWindow?.postMessage({ mastflag: 'refresh' }, '*')
}
defineExpose({ refresh })
</script>

<template>
  <section class="stage" aria-label="Stage">
    <div class="bar">
      <el-radio-group v-model="width" size="small" aria-label="Width of the stage">
        <el-radio-button v-for="w in widths" :key="w.px" :value="w.px">{{ `${w.label} ${w.px}` }}</el-radio-button>
      </el-radio-group>
      <span class="says" role="status">
        <template v-if="!address">Give the site its address in Site to see its pages here.</template>
        <template v-else-if="silent"
          >This page does not answer. Is the snippet on it, and does it allow to be framed?
          <a :href="src" target="_blank" rel="noopener">Open it in a tab</a></template
        >
        <template v-else-if="placed && !placed.includes(notice)">{{ why }}</template>
        <template v-else-if="placed">The draft, on the real page.</template>
        <template v-else>Opening the page…</template>
      </span>
    </div>
    <div ref="box" class="box">
      <iframe
        v-if="src"
        ref="frame"
        :key="src"
        title="The site’s page with the draft on it"
        :src="src"
        :style="{
          width: width + 'px',
          height: (high || 400) / scale + 'px',
          transform: `scale(${scale})`,
          marginInlineStart: Math.max(0, (room - width * scale) / 2) + 'px',
        }"
        sandbox="allow-scripts allow-same-origin allow-forms"
      ></iframe>
    </div>
  </section>
</template>

<style scoped>
.stage {
  display: flex;
  flex-direction: column;
  min-height: 0;
  border: 1px solid var(--line);
  border-radius: 3px;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  padding: 6px 8px;
  border-bottom: 1px solid var(--line);
  background: var(--chart);
}
.says {
  color: var(--ink-2);
  font-size: 12px;
}
.box {
  position: relative;
  flex: 1;
  min-height: 400px;
  overflow: hidden;
  background: var(--chart);
}
iframe {
  position: absolute;
  inset: 0 auto auto 0;
  display: block;
  border: 0;
  background: #fff;
  transform-origin: 0 0;
}
</style>
