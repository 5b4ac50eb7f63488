<script setup lang="ts">
// A text field that gives what was typed once it is left, or Enter is pressed. Without its lazy modifier Element Plus
// puts the old text back after each key, as long as nothing takes the new one.
defineProps<{ modelValue?: string }>()
const emit = defineEmits<{ change: [text: string] }>()
</script>

<template>
  <el-input :model-value="modelValue" :model-modifiers="{ lazy: true }" @change="(v: string) => emit('change', v)" />
</template>
