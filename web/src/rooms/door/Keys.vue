<script setup lang="ts">
// The list of keyboard commands.
const shown = defineModel<boolean>({ required: true })

const keys = [
  ['n', 'New bar'],
  ['/', 'Find in this room, or a page to look from'],
  ['g n', 'Go to Now & next'],
  ['g p', 'Go to Pages'],
  ['g s', 'Go to Site'],
  ['[', 'Step the moment back to the previous change'],
  [']', 'Step the moment on to the next change'],
  ['?', 'This list'],
]
</script>

<template>
  <el-dialog v-model="shown" title="Keyboard" width="min(92vw, 460px)">
    <dl>
      <template v-for="[k, what] in keys" :key="k">
        <dt>
          <kbd v-for="part in k!.split(' ')" :key="part">{{ part }}</kbd>
        </dt>
        <dd>{{ what }}</dd>
      </template>
    </dl>
  </el-dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 64px 1fr;
  gap: 8px;
  margin: 0;
}
dt {
  display: flex;
  gap: 4px;
}
dd {
  margin: 0;
}
</style>
