<script setup lang="ts">
// A question with the field for its answer. An answer that another document has
// given stands there already, and can be given anew.
import { computed } from 'vue'
import type { QuestionCard } from '../../api/client'

const props = defineProps<{ question: QuestionCard; fault?: string; disabled?: boolean }>()
const answer = defineModel<string>({ required: true })
const emit = defineEmits<{ reveal: [] }>()

const shown = computed(() => answer.value || (props.question.from ? props.question.answer : ''))
const chosen = computed(() => shown.value.split(',').filter(Boolean))
/** “None” and the others exclude each other. */
function choose(list: (string | number | boolean)[]) {
  const all = list.map(String)
  const none = all.includes('none') && !chosen.value.includes('none')
  answer.value = none ? 'none' : all.filter((v) => v !== 'none').join(',')
}
</script>

<template>
  <div class="question" :data-question="question.id" @focusin="emit('reveal')">
    <fieldset v-if="question.form === 'choices'">
      <legend>{{ question.ask }}</legend>
      <el-checkbox-group :model-value="chosen" :disabled="disabled" @change="choose">
        <el-checkbox v-for="o in question.options" :key="o.id" :value="o.id">{{ o.say }}</el-checkbox>
        <el-checkbox value="none">None of these</el-checkbox>
      </el-checkbox-group>
    </fieldset>
    <label v-else>
      <span>{{ question.ask }} <span v-if="question.optional" class="quiet small">if you like</span></span>
      <el-select
        v-if="question.form === 'choice'"
        :model-value="shown"
        :aria-label="question.ask"
        :disabled="disabled"
        :placeholder="(question.optional && question.options?.[0]?.say) || 'Choose'"
        @change="(v: string) => (answer = v)"
      >
        <el-option v-for="o in question.options" :key="o.id" :value="o.id" :label="o.say" />
      </el-select>
      <el-date-picker
        v-else-if="question.form === 'day'"
        :model-value="shown"
        value-format="YYYY-MM-DD"
        :aria-label="question.ask"
        :disabled="disabled"
        @update:model-value="(v: string | null) => (answer = v ?? '')"
      />
      <el-input
        v-else
        :model-value="shown"
        :type="question.form === 'lines' ? 'textarea' : 'text'"
        :autosize="{ minRows: 2, maxRows: 6 }"
        :aria-label="question.ask"
        :disabled="disabled"
        maxlength="500"
        @update:model-value="(v: string) => (answer = v)"
      />
    </label>
    <p v-if="fault" class="fault small" role="alert">{{ fault }}</p>
    <p v-if="question.help" class="quiet small">{{ question.help }}</p>
    <p v-if="question.from && !answer" class="quiet small">
      As in “{{ question.from }}”. Another answer here is for this text alone.
    </p>
  </div>
</template>

<style scoped>
.question {
  padding: 7px 0;
  border-top: 1px solid var(--line);
}
label,
fieldset {
  display: grid;
  gap: 2px;
  margin: 0;
  padding: 0;
  border: 0;
  font-weight: 600;
}
.el-checkbox-group {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 0 8px;
}
.el-checkbox {
  height: auto;
  min-height: 26px;
  margin: 0;
  white-space: normal;
}
p {
  margin: 2px 0 0;
}
.fault {
  color: var(--alarm);
}
</style>
