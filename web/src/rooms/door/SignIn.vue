<script setup lang="ts">
// The door: sign in.
import { ref } from 'vue'
import { api } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'
import DoorFrame from './DoorFrame.vue'

const email = ref('')
const password = ref('')
const { error, busy, attempt } = useAttempts()

const enter = () => attempt('enter', () => api.signIn(email.value, password.value))
</script>

<template>
  <DoorFrame @submit="enter">
    <svg viewBox="0 0 96 120" width="72" height="90" aria-hidden="true">
      <path d="M12 4v112M4 116h28" class="staff" />
      <path d="M14 8h68v48H14z" class="fly" />
      <path d="M14 8h68v16H14z" class="chief" />
    </svg>
    <h1>Mast Flag</h1>
    <p class="quiet">Say it on the right pages, at the right time, and take it away again.</p>
    <label
      >E-mail <el-input v-model="email" type="email" autocomplete="username" name="email" required size="large"
    /></label>
    <label
      >Password
      <el-input
        v-model="password"
        type="password"
        autocomplete="current-password"
        name="password"
        required
        size="large"
        show-password
    /></label>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <el-button type="primary" native-type="submit" size="large" :loading="!!busy">Sign in</el-button>
  </DoorFrame>
</template>

<style scoped>
.staff {
  fill: none;
  stroke: var(--ink);
  stroke-width: 4;
}
.fly {
  fill: var(--sea);
}
.chief {
  fill: #f6d9a8;
}
</style>
