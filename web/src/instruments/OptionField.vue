<script setup lang="ts" generic="T extends string">
// One of a few, in a list that folds away.
defineProps<{ label: string; options: readonly { value: T; label: string }[] }>()
const chosen = defineModel<T>({ required: true })
</script>

<template>
  <!-- An empty value is a choice among others: "as usual", "none". -->
  <el-select v-model="chosen" :aria-label="label" :empty-values="[null, undefined]">
    <el-option v-for="o in options" :key="o.value" :value="o.value" :label="o.label" />
  </el-select>
</template>
