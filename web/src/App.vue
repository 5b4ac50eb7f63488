<script setup lang="ts">
// The shell: which site, which room, and the viewpoint that all of it is seen from.
import en from 'element-plus/es/locale/lang/en'
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useEventListener } from '@vueuse/core'
import { useRoute, useRouter } from 'vue-router'
import { api, signedOut } from './api/client'
import { mayManage, mayWrite, me } from './instruments/me'
import { commandOf, keyOf, shortcutsOff, type Command } from './instruments/shortcuts'
import { followViewpoint } from './instruments/viewpoint'
import RoomFrame from './instruments/RoomFrame.vue'
import Viewpoint from './instruments/Viewpoint.vue'
import SignIn from './rooms/door/SignIn.vue'
import FirstSite from './rooms/door/FirstSite.vue'
import Help from './rooms/door/Help.vue'
import JoinDoor from './rooms/door/JoinDoor.vue'
import PasswordChange from './rooms/door/PasswordChange.vue'
import SessionList from './rooms/door/SessionList.vue'
import NewNotice from './rooms/notice/NewNotice.vue'
import { saveAll } from './instruments/saving'

const route = useRoute()
const router = useRouter()
const { site, view, trouble, refresh, look } = followViewpoint()
const viewpoint = useTemplateRef<InstanceType<typeof Viewpoint>>('viewpoint')
const newNotice = useTemplateRef<InstanceType<typeof NewNotice>>('newNotice')
const helpShown = ref(false)
const passwordShown = ref(false)
const sessionsShown = ref(false)

async function enter() {
  try {
    me.value = await api.me()
    if (['/', '/join'].includes(route.path) && me.value.sites[0]) await router.replace(`/${me.value.sites[0].key}/now`)
    else await refresh()
  } catch {
    // The door says why.
  }
}
/** A site was added: on to it. */
async function made(key: string) {
  me.value = await api.me()
  await router.replace(`/${key}/site`)
}
onMounted(async () => {
  await router.isReady()
  await enter()
})
watch(signedOut, (out) => !out && enter())

async function leave() {
  await saveAll()
  await api.signOut()
  me.value = undefined
  signedOut.value = true
}

const rooms = [
  { name: 'now', label: 'Now & next', key: 'n' },
  { name: 'pages', label: 'Pages', key: 'p' },
  { name: 'consent', label: 'Consent', key: 'c' },
  { name: 'results', label: 'Results', key: 'r' },
  { name: 'library', label: 'Library', key: 'l' },
  { name: 'site', label: 'Site', key: 's' },
]
/** Rooms that lie within another. */
const inside: Record<string, string> = { now: 'notice', library: 'document' }
const to = (name: string) => ({ name, params: { site: site.value }, query: route.query })
const here = computed(() => me.value?.sites.find((s) => s.key === site.value))
const siteName = computed(() => here.value?.name ?? '')
watch(
  [siteName, () => route.meta.title],
  () => (document.title = [route.meta.title, siteName.value, 'Mast Flag'].filter(Boolean).join(' · ')),
)

// A key alone is a command, unless something is being written.
let goes = false
useEventListener('keydown', (e: KeyboardEvent) => {
  if (!site.value || signedOut.value) return
  const room = goes && !shortcutsOff.value ? rooms.find((r) => r.key === e.key) : undefined
  if (goes) {
    goes = false
    if (room) {
      e.preventDefault()
      void router.push(to(room.name))
    }
    return
  }
  const acts: Partial<Record<Command, () => unknown>> = {
    go: () => (goes = true),
    new: () => newNotice.value?.begin(),
    visitor: () => viewpoint.value?.pickVisitor(),
    back: () => viewpoint.value?.step(false),
    on: () => viewpoint.value?.step(true),
    find: () => document.querySelector<HTMLElement>('[data-find] input, input[data-find], .viewpoint input')?.focus(),
    help: () => (helpShown.value = !helpShown.value),
  }
  const act = acts[commandOf(e)!]
  if (act) {
    e.preventDefault()
    act()
  }
})
</script>

<template>
  <el-config-provider :locale="en">
    <JoinDoor v-if="route.name === 'join'" @in="enter" />
    <SignIn v-else-if="signedOut && !me" />
    <template v-else-if="me">
      <a class="unseen" href="#room">Skip to main content</a>
      <header class="shell">
        <router-link class="mark" :to="site ? to('now') : '/'">
          <svg viewBox="0 0 24 28" width="22" height="26" aria-hidden="true">
            <path d="M4 1v26" class="staff" />
            <path d="M5 2h16v12H5z" class="fly" />
            <path d="M5 2h16v4H5z" class="chief" />
          </svg>
          Mast Flag
        </router-link>
        <nav v-if="site" aria-label="Rooms">
          <router-link
            v-for="r in rooms"
            :key="r.name"
            :to="to(r.name)"
            :class="{ here: inside[r.name] === route.name }"
            >{{ r.label }}</router-link
          >
        </nav>
        <span class="grow"></span>
        <el-dropdown
          v-if="me.sites.length > 1 || mayManage"
          trigger="click"
          @command="(path: string) => router.push(path)"
        >
          <el-button text>{{ siteName || 'Sites' }} ▾</el-button>
          <template #dropdown>
            <el-dropdown-menu>
              <el-dropdown-item v-for="s in me.sites" :key="s.key" :command="`/${s.key}/now`">{{
                s.name
              }}</el-dropdown-item>
              <el-dropdown-item v-if="mayManage" divided command="/new">Add a site</el-dropdown-item>
            </el-dropdown-menu>
          </template>
        </el-dropdown>
        <span v-else class="site">{{ siteName }}</span>
        <NewNotice v-if="site && mayWrite" ref="newNotice" :site="site" />
        <el-button
          text
          aria-label="Help"
          :title="shortcutsOff ? 'Help' : `Help  ${keyOf('help')}`"
          @click="helpShown = true"
          >?</el-button
        >
        <el-dropdown trigger="click">
          <el-button text :aria-label="`${me.person.name}: account`">{{ me.person.name }} ▾</el-button>
          <template #dropdown>
            <el-dropdown-menu>
              <el-dropdown-item disabled>{{ me.person.role }}</el-dropdown-item>
              <el-dropdown-item @click="helpShown = true">Help and keyboard</el-dropdown-item>
              <el-dropdown-item @click="passwordShown = true">Change password</el-dropdown-item>
              <el-dropdown-item @click="sessionsShown = true">Where you are signed in</el-dropdown-item>
              <el-dropdown-item @click="leave">Sign out</el-dropdown-item>
            </el-dropdown-menu>
          </template>
        </el-dropdown>
      </header>
      <Viewpoint v-if="site" ref="viewpoint" :languages="here?.languages ?? []" />
      <div v-if="view && !view.display && site" class="switched-off" role="status">
        The master switch is off: no visitor sees any notice of this site.
        <router-link :to="to('site')">Switch it on in Site</router-link>
      </div>
      <div v-if="trouble && site" class="trouble" role="alert">
        {{ trouble }} <button class="word" @click="refresh()">Try again</button>
        <button
          v-if="Object.keys(route.query).length"
          class="word"
          @click="look({ page: '', at: '', zone: '', visitor: '', language: '', width: '' })"
        >
          Reset the viewpoint
        </button>
      </div>
      <main id="room">
        <FirstSite v-if="me.sites.length === 0 || (route.name === 'new' && mayManage)" @made="made" />
        <RoomFrame
          v-else
          :key="`${me.person.email} ${site}/${route.params.notice ?? ''}/${route.params.document ?? ''}`"
          :site="site"
        />
      </main>
      <!-- The session ended: sign in again in place, nothing is lost. -->
      <div v-if="signedOut" class="again"><SignIn /></div>
      <!-- Within a section the header of a dialog is not taken for the page's. -->
      <section>
        <PasswordChange v-model="passwordShown" />
        <SessionList v-model="sessionsShown" />
        <Help v-model="helpShown" :room="(route.name as string) ?? ''" />
      </section>
    </template>
  </el-config-provider>
</template>

<style scoped>
.shell {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 20px;
  min-height: 52px;
  padding: 0 24px;
  border-bottom: 1px solid var(--line);
}
.mark {
  display: inline-flex;
  align-items: center;
  gap: 8px;
  color: var(--ink);
  font: 700 20px/1 var(--head);
  font-stretch: 84%;
  text-decoration: none;
}
.staff {
  stroke: var(--ink);
  stroke-width: 2;
}
.fly {
  fill: var(--sea);
}
.chief {
  fill: #f6d9a8;
}
nav {
  display: flex;
  align-self: stretch;
  gap: 4px;
}
nav a {
  display: flex;
  align-items: center;
  padding: 2px 10px 0;
  border-bottom: 2px solid transparent;
  color: var(--ink);
  font: 600 14px/1 var(--head);
  text-decoration: none;
}
nav a:hover {
  border-color: var(--line);
}
nav a.router-link-active,
nav a.here {
  border-color: var(--sea);
  color: var(--sea);
}
.grow {
  flex: 1;
}
.site {
  color: var(--ink-2);
}
main {
  padding: 16px 24px 40px;
}
.switched-off,
.trouble {
  padding: 8px 24px;
  background: var(--wait-bg);
  color: var(--wait);
}
.trouble {
  background: var(--alarm-bg);
  color: var(--alarm);
}
.switched-off a {
  color: inherit;
}
.again {
  position: fixed;
  inset: 0;
  z-index: 3000;
  background: var(--sail);
}
@media (max-width: 700px) {
  .shell {
    padding: 6px 12px;
    gap: 4px 8px;
  }
  .site {
    display: none;
  }
  nav {
    order: 3;
    width: 100%;
    min-height: 36px;
  }
  nav {
    gap: 0;
  }
  nav a {
    padding-inline: 6px;
    font-size: 13px;
    white-space: nowrap;
  }
  main {
    padding: 12px 12px 32px;
  }
  .switched-off,
  .trouble {
    padding: 8px 12px;
  }
}
</style>
