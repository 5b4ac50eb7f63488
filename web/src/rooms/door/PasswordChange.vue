<script setup lang="ts">
// Changing one's own password.
import { ref, watch } from 'vue'
import { api } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'

const shown = defineModel<boolean>({ required: true })
const before = ref('')
const after = ref('')
const { error, attempt } = useAttempts()
watch(shown, () => (before.value = after.value = error.value = ''))

const change = () =>
  attempt(
    'change',
    async () => {
      await api.changePassword({ old: before.value, new: after.value })
      shown.value = false
    },
    'Your password is changed.',
  )
</script>

<template>
  <el-dialog v-model="shown" title="Change password" width="min(94vw, 380px)">
    <form @submit.prevent="change">
      <label
        >The old one <el-input v-model="before" type="password" autocomplete="current-password" show-password required
      /></label>
      <label
        >The new one, 10 characters at least
        <el-input v-model="after" type="password" autocomplete="new-password" show-password required
      /></label>
      <p v-if="error" class="error" role="alert">{{ error }}</p>
      <el-button type="primary" native-type="submit">Change it</el-button>
    </form>
  </el-dialog>
</template>

<style scoped>
form,
label {
  display: grid;
  gap: 4px;
}
form {
  gap: 12px;
}
.el-button {
  justify-self: start;
}
</style>
