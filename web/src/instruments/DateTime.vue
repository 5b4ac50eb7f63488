<script setup lang="ts">
// A date and time of day on the site's clock, as "2026-11-27T09:00"; "" for none.
const value = defineModel<string | undefined>({ required: true })
defineProps<{ label: string; placeholder?: string; clearable?: boolean; size?: 'small' }>()

/** The calendar opens as a dialog, which needs a name. */
function nameCalendar(open: boolean, label: string) {
  if (!open) return
  for (const d of document.querySelectorAll('.el-picker__popper[role=dialog]')) d.setAttribute('aria-label', label)
}
</script>

<template>
  <el-date-picker
    :model-value="value"
    type="datetime"
    :size="size"
    format="ddd D MMM YYYY HH:mm"
    value-format="YYYY-MM-DDTHH:mm"
    :clearable="clearable"
    :placeholder="placeholder"
    :aria-label="label"
    @update:model-value="(v: string | null) => (value = v ?? '')"
    @visible-change="(open: boolean) => $nextTick(() => nameCalendar(open, label))"
  />
</template>
