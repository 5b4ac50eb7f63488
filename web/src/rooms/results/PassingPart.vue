<script setup lang="ts">
// What another program needs that takes contacts; and, where there is one, what came to the
// stand-in for it.
import { ref } from 'vue'
import { api, type ReceiverSetup } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'
import { copy } from '../../instruments/copy'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'

const { site, view } = useViewpoint()
const { error, attempt } = useAttempts()
const setup = ref<ReceiverSetup>()
const shown = ref(false)
const load = () => attempt('passing', async () => (setup.value = await api.passing(site.value)))
void load()
const sender = (body: unknown) => {
  const { contact } = body as { contact?: { answers?: { kind: string; values: string[] }[] } }
  return contact?.answers?.find((a) => a.kind === 'email')?.values[0] ?? contact?.answers?.[0]?.values[0] ?? ''
}
</script>

<template>
  <details class="passing">
    <summary>Passing contacts on to another program</summary>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <template v-if="setup">
      <p>
        A notice’s form says where its contacts go: choose the words <em>it asks for …</em> in its sentence. A web
        address gets each as JSON by POST, at least once, and always under the same <code>Idempotency-Key</code>. It is
        signed as RFC 9421 has it, with <code>hmac-sha256</code>, over method, address, digest of the body, type and
        key, with the time of signing. Anything but a 2xx is tried again, later and later, for four days.
      </p>
      <p>
        The key’s name is <code>{{ setup.keyId }}</code>, its secret
        <code v-if="shown">{{ setup.secret }}</code>
        <span v-else>is hidden</span>{{ ' ' }}
        <button type="button" class="word" @click="shown = !shown">{{ shown ? 'Hide it' : 'Show it' }}</button>{{ ' ' }}
        <button type="button" class="word" @click="copy(setup.secret)">Copy it</button>
      </p>
      <template v-if="setup.standIn">
        <h3>The stand-in receiver</h3>
        <p class="quiet small">
          It stands for another program, and keeps the latest in memory: <code>{{ setup.standIn }}</code>{{ ' ' }}
          <button type="button" class="word" @click="load">Look again</button>
        </p>
        <ul v-if="setup.received?.length" class="plainlist">
          <li v-for="c in setup.received" :key="c.key">
            {{ view && say(c.at, view.zone) }}: {{ sender(c.body) }},
            <b :class="{ wrong: c.wrong }">{{ c.wrong ? c.wrong : 'the signature holds' }}</b>{{
              c.times > 1 ? `, came ${c.times} times` : ''
            }}
          </li>
        </ul>
        <p v-else class="small">Nothing has come to it.</p>
      </template>
    </template>
  </details>
</template>

<style scoped>
.passing {
  margin-top: 20px;
  padding-top: 8px;
  border-top: 1px solid var(--line);
}
summary {
  font-weight: 600;
  cursor: pointer;
}
p {
  max-width: 90ch;
}
code {
  overflow-wrap: anywhere;
}
.wrong {
  color: var(--alarm);
}
</style>
