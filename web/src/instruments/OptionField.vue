<script setup lang="ts" generic="T extends string">
// One of a few, in a list that folds away.
defineProps<{ label: string; options: { value: T; label: string }[] }>()
const chosen = defineModel<T>({ required: true })
</script>

<template>
  <el-select v-model="chosen" :aria-label="label">
    <el-option v-for="o in options" :key="o.value" :value="o.value" :label="o.label" />
  </el-select>
</template>
