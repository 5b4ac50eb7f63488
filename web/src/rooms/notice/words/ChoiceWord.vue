<script setup lang="ts" generic="T extends string">
// One of a few, each with what it means.
defineProps<{ label: string; choices: { value: T; label: string; means: string }[] }>()
const chosen = defineModel<T>({ required: true })
</script>

<template>
  <fieldset class="choice">
    <legend class="unseen">{{ label }}</legend>
    <label v-for="c in choices" :key="c.value" :class="{ chosen: chosen === c.value }">
      <input v-model="chosen" type="radio" :name="label" :value="c.value" />
      <span
        ><b>{{ c.label }}</b
        ><br /><span class="quiet small">{{ c.means }}</span></span
      >
    </label>
  </fieldset>
</template>

<style scoped>
.choice {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 0;
  border: 0;
}
label {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 4px 8px;
  border-radius: 3px;
  cursor: pointer;
}
label:hover,
.chosen {
  background: var(--chart);
}
</style>
