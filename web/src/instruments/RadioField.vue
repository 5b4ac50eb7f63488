<script setup lang="ts" generic="T extends string | number">
// One of a few, all in sight.
defineProps<{ label: string; options: readonly { value: T; label: string }[] }>()
const chosen = defineModel<T>({ required: true })
</script>

<template>
  <el-radio-group v-model="chosen" size="small" :aria-label="label">
    <el-radio-button v-for="o in options" :key="o.value" :value="o.value">{{ o.label }}</el-radio-button>
  </el-radio-group>
</template>
