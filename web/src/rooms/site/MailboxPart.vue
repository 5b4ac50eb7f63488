<script setup lang="ts">
// What the program sent: how each letter goes out by the mail server, or the stand-in mailbox.
import { ref } from 'vue'
import { api, type Mail } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'

const { view } = useViewpoint()
const list = ref<Mail[]>()
const { error, attempt } = useAttempts()
const real = ref(false)
void attempt('list', async () => {
  const box = await api.mailbox()
  list.value = box.messages
  real.value = box.real
})
const when = (at?: string | null) => (at && view.value ? say(at, view.value.zone) : '')
function deliveryText(m: Mail): string {
  if (m.state === 'done') return 'sent'
  if (m.state === 'given-up') return `not sent: ${m.why}`
  if (m.state === 'waiting') return m.tries ? `${m.why}; tried again ${when(m.next)}` : 'on its way'
  return ''
}
/** A text in stretches, addresses apart. */
const parts = (s: string) => s.split(/(https?:\/\/[^\s"<>]+)/)
</script>

<template>
  <section aria-labelledby="mailbox">
    <h2 id="mailbox">Mailbox</h2>
    <p v-if="real" class="quiet">
      What the program sends goes out by the mail server that it was started with. What fails is tried again, later and
      later, for four days.
    </p>
    <p v-else class="quiet">
      A stand-in for mail: what the program sends lies here and, as letters, in the folder “outbox” of its data. Nothing
      leaves this machine. To send mail, start the program with <code>--smtp</code>.
    </p>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <ul v-if="list?.length" class="plainlist">
      <li v-for="m in list" :key="m.id">
        <details>
          <summary>
            <b>{{ m.subject }}</b> <span class="quiet">to {{ m.to }}, {{ when(m.at) }}</span>
            <span v-if="deliveryText(m)" :class="{ late: m.state !== 'done' }"> {{ deliveryText(m) }}</span>
          </summary>
          <p v-if="m.private && !real && !m.body.match(/join#[\w-]{10}/)" class="quiet small">
            The way to a new password stands in the letter alone, which is for nobody but {{ m.to }}. Whoever runs the
            program passes it on from the folder “outbox” of its data.
          </p>
          <!-- prettier-ignore -->
          <pre
            ><template v-for="(p, i) in parts(m.body)" :key="i"
              ><a v-if="i % 2 && /\/join#[\w-]{10}|\/forms\/[\w-]+\/[\w-]{43}/.test(p)" :href="p">{{ p }}</a
              ><template v-else>{{ p }}</template></template
          ></pre>
        </details>
      </li>
    </ul>
    <p v-else-if="list">
      It is empty. Invite someone under People, or send the two lines to a colleague under Installed.
    </p>
  </section>
</template>

<style scoped>
.late {
  color: var(--wait);
}
li {
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
summary {
  cursor: pointer;
}
pre {
  overflow: auto;
  margin: 6px 0 0;
  padding: 10px 12px;
  background: var(--chart);
  font: 12px/1.5 var(--text);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
</style>
