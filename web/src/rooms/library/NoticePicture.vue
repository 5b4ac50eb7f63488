<script setup lang="ts">
// A notice as visitors see it, small, to be looked at only. Its own style stays within the picture.
import { onMounted, useTemplateRef, watch } from 'vue'
import base from '../../../../core/render/bar.css?inline'

/** `zoom` is how large it is drawn, of 1. */
const props = withDefaults(defineProps<{ html: string; css: string; zoom?: number }>(), { zoom: 0.75 })
const host = useTemplateRef<HTMLElement>('host')

function draw() {
  const at = host.value
  if (!at) return
  const root = at.shadowRoot ?? at.attachShadow({ mode: 'open' })
  const sheet = new CSSStyleSheet()
  sheet.replaceSync(base + props.css + `:host{zoom:${props.zoom};border:1px solid #0003}`)
  root.adoptedStyleSheets = [sheet]
  root.innerHTML = props.html // sanitised and rendered by the core
}
onMounted(draw)
watch(props, draw)
</script>

<template>
  <div class="picture" inert aria-hidden="true"><div ref="host"></div></div>
</template>

<style scoped>
/* What is fixed within stands fixed to this, and what is larger is cut off (CSS Containment, layout and paint). */
.picture {
  contain: layout paint style;
}
</style>
