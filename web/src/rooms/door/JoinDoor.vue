<script setup lang="ts">
// The door for someone who was invited: a name, a password, and in. The token
// travels in the fragment of the address, which no server's log sees.
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, type Person } from '../../api/client'
import { problemOf, reason, useAttempts } from '../../instruments/attempts'
import DoorFrame from './DoorFrame.vue'

const emit = defineEmits<{ in: [] }>()
const router = useRouter()
const token = location.hash.slice(1)
const person = ref<Person>()
const name = ref('')
const password = ref('')
const { error, busy, attempt } = useAttempts()

onMounted(async () => {
  try {
    person.value = await api.invitation(token)
    name.value = person.value.name
  } catch (e) {
    const title = problemOf(e)?.title
    error.value = title ? `${title}. ${reason(e)}` : reason(e)
  }
})
const enter = () =>
  attempt('enter', async () => {
    await api.join({ token, name: name.value, password: password.value })
    await router.replace('/')
    emit('in')
  })
</script>

<template>
  <DoorFrame @submit="enter">
    <h1>Welcome to Mast Flag</h1>
    <template v-if="person">
      <p>
        You are invited as {{ person.role }}, as {{ person.email
        }}<template v-if="person.sites.length">, for {{ person.sites.join(', ') }}</template
        >.
      </p>
      <label>What the others call you <el-input v-model="name" autocomplete="name" size="large" required /></label>
      <label
        >A password of your own, 10 characters at least
        <el-input v-model="password" type="password" autocomplete="new-password" size="large" show-password required
      /></label>
    </template>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <el-button v-if="person" type="primary" native-type="submit" size="large" :loading="!!busy">Come in</el-button>
    <router-link v-else-if="error" to="/">Sign in instead</router-link>
  </DoorFrame>
</template>
