<script setup lang="ts">
// Who may work here: people with their roles and sites, and those invited.
import { computed, ref } from 'vue'
import { api, type PeopleList, type Person } from '../../api/client'
import { useAttempts } from '../../instruments/attempts'
import { me } from '../../instruments/me'
import { say } from '../../instruments/time'
import { useViewpoint } from '../../instruments/viewpoint'

const { site, view } = useViewpoint()
const list = ref<PeopleList>()
const { error, busy, attempt } = useAttempts()
const fresh = ref<Person>({ email: '', name: '', role: 'editor', sites: [] })

const roles = [
  { value: 'viewer', label: 'viewer', means: 'looks, changes nothing' },
  { value: 'editor', label: 'editor', means: 'writes and publishes' },
  { value: 'administrator', label: 'administrator', means: 'sets up sites and people too' },
] as const
const sites = computed(() => me.value?.sites ?? [])
const nameOf = (key: string) => sites.value.find((s) => s.key === key)?.name ?? key

async function put(work: () => Promise<PeopleList>, done = '') {
  const kept = await attempt('list', async () => (list.value = await work()), done)
  // What was chosen and refused is shown as it is.
  if (!kept && list.value) list.value = { ...list.value }
  return kept
}
void put(() => api.people())

async function invite() {
  const to = fresh.value.email
  if (await put(() => api.invite(fresh.value), `The invitation to ${to} is in the mailbox.`))
    fresh.value = { email: '', name: '', role: 'editor', sites: [] }
}
const change = (p: Person, part: Partial<Person>) => put(() => api.changePerson({ ...p, ...part }), 'Changed.')
const renew = (p: Person) =>
  put(
    () => api.invite(p),
    `A letter with the way to a new password is for ${p.email} alone. Whoever runs the program passes it on.`,
  )
const inviteAgain = (p: Person) =>
  put(() => api.invite(personOf(p)), `A new invitation to ${p.email} is in the mailbox.`)
/** What can be said of a person, without what is known of their invitation. */
const personOf = ({ email, name, role, sites, contacts }: Person): Person => ({ email, name, role, sites, contacts })
const remove = (email: string, done: string) => put(() => api.removePerson(email), done)
</script>

<template>
  <section aria-labelledby="people">
    <h2 id="people">People</h2>
    <p v-if="error" class="error" role="alert">{{ error }}</p>
    <table v-if="list">
      <thead>
        <tr>
          <th>Name</th>
          <th>Role</th>
          <th>Sites</th>
          <th>Contacts</th>
          <th><span class="unseen">Remove</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in list.people" :key="p.email">
          <td>
            <b>{{ p.name }}</b><br /><span class="quiet small">{{ p.email }}</span>
          </td>
          <td>
            <el-select
              :model-value="p.role"
              :aria-label="`Role of ${p.name}`"
              @change="(role: string) => change(p, { role: role as Person['role'] })"
            >
              <el-option v-for="r in roles" :key="r.value" :value="r.value" :label="r.label">
                {{ r.label }} <span class="quiet small">{{ r.means }}</span>
              </el-option>
            </el-select>
          </td>
          <td>
            <el-select
              :model-value="p.sites"
              multiple
              collapse-tags
              placeholder="all sites"
              :aria-label="`Sites of ${p.name}`"
              @change="(keys: string[]) => change(p, { sites: keys })"
            >
              <el-option v-for="s in sites" :key="s.key" :value="s.key" :label="s.name" />
            </el-select>
          </td>
          <td>
            <el-checkbox
              v-if="p.role === 'editor'"
              :model-value="!!p.contacts"
              label="sees contacts"
              :aria-label="`${p.name} sees contacts`"
              @change="(on) => change(p, { contacts: !!on })"
            />
            <span v-else class="quiet small">{{
              p.role === 'administrator' ? 'sees contacts' : 'sees no contacts'
            }}</span>
          </td>
          <td class="ways">
            <el-button text size="small" :aria-label="`New password for ${p.name}`" @click="renew(p)"
              >New password</el-button
            >
            <el-button
              text
              :aria-label="`Take off ${p.name}`"
              title="Take off"
              @click="remove(p.email, `${p.name} cannot sign in any more.`)"
              >✕</el-button
            >
          </td>
        </tr>
        <tr v-for="p in list.invited" :key="'invited ' + p.email" class="invited">
          <td>
            {{ p.name || p.email }}<br /><span class="quiet small"
              >{{ p.email }},
              {{ p.over ? 'the invitation is over' : `invited until ${view && say(p.ends, view.zone)}` }}</span
            >
          </td>
          <td>{{ p.role }}</td>
          <td>{{ p.sites.length ? p.sites.map(nameOf).join(', ') : 'all sites' }}</td>
          <td class="quiet small">
            {{ p.role === 'administrator' || p.contacts ? 'sees contacts' : 'sees no contacts' }}
          </td>
          <td class="ways">
            <el-button v-if="p.over" text size="small" :aria-label="`Invite ${p.email} again`" @click="inviteAgain(p)"
              >Invite again</el-button
            >
            <el-button
              text
              :aria-label="`Take back the invitation to ${p.email}`"
              title="Take back"
              @click="remove(p.email, 'The invitation is taken back.')"
              >✕</el-button
            >
          </td>
        </tr>
      </tbody>
    </table>
    <form class="invite" @submit.prevent="invite">
      <h3>Invite someone</h3>
      <label>Their e-mail <el-input v-model="fresh.email" type="email" required /></label>
      <label>Their name <el-input v-model="fresh.name" /></label>
      <label
        >Role
        <el-select v-model="fresh.role" aria-label="Role of the new person">
          <el-option v-for="r in roles" :key="r.value" :value="r.value" :label="`${r.label}: ${r.means}`" />
        </el-select>
      </label>
      <label
        >Sites
        <el-select v-model="fresh.sites" multiple placeholder="all sites" aria-label="Sites of the new person">
          <el-option v-for="s in sites" :key="s.key" :value="s.key" :label="s.name" />
        </el-select>
      </label>
      <el-checkbox
        v-if="fresh.role === 'editor'"
        :model-value="!!fresh.contacts"
        label="sees contacts"
        @change="(on) => (fresh = { ...fresh, contacts: !!on })"
      />
      <el-button type="primary" native-type="submit" :loading="!!busy">Invite</el-button>
      <p class="quiet small">
        The <router-link :to="{ name: 'site', params: { site, part: 'mailbox' } }">mailbox</router-link>
        says how letters go out.
      </p>
    </form>
  </section>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  padding: 4px 8px;
  background: var(--chart);
  font: 600 12px/1.4 var(--head);
  text-align: start;
}
td {
  padding: 6px 8px;
  border-bottom: 1px solid var(--line);
  vertical-align: middle;
}
td .el-select {
  width: min(200px, 100%);
}
td:nth-child(2) {
  width: 200px;
}
td:nth-child(3) {
  width: 240px;
}
.invited td {
  color: var(--ink-2);
}
.invite {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(180px, 1fr));
  gap: 8px 12px;
  align-items: end;
  margin-top: 20px;
}
.invite h3,
.invite p {
  grid-column: 1 / -1;
  margin: 0;
}
h3 {
  font-size: 14px;
}
label:not(.el-checkbox) {
  display: grid;
  gap: 2px;
}
.invite .el-button {
  justify-self: start;
}
@media (max-width: 560px) {
  table,
  tbody,
  tr,
  td {
    display: block;
  }
  thead {
    display: none;
  }
  td {
    padding: 2px 0;
    border: 0;
  }
  tr {
    padding: 8px 0;
    border-bottom: 1px solid var(--line);
  }
}
</style>
