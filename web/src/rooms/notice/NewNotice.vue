<script setup lang="ts">
// Begins a notice: a plain bar, or one from a starting point.
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, type StartingChoice } from '../../api/client'
import { me } from '../../instruments/me'
import { beginNotice } from './begin'

const props = defineProps<{ site: string }>()
const router = useRouter()
const points = ref<StartingChoice[]>([])

/** Read before the list opens, so that the keyboard finds all of it there. */
async function load() {
  points.value = (await api.starting(props.site).catch(() => ({ points: [] }))).points
}
</script>

<template>
  <span class="new">
    <el-button type="primary" @click="beginNotice(router, site)">New bar</el-button>
    <el-dropdown trigger="click" :max-height="520">
      <el-button aria-label="New, from a starting point" @focus="load" @pointerenter="load">From ▾</el-button>
      <template #dropdown>
        <el-dropdown-menu class="starting-menu">
          <el-dropdown-item @click="beginNotice(router, site, undefined, 'alert')">
            <span
              ><b>An alert</b><br /><span class="quiet small"
                >With a level that it says in a word and a sign.</span
              ></span
            >
          </el-dropdown-item>
          <el-dropdown-item @click="beginNotice(router, site, undefined, 'countdown')">
            <span
              ><b>A countdown</b><br /><span class="quiet small"
                >Time to or since something, and what follows.</span
              ></span
            >
          </el-dropdown-item>
          <el-dropdown-item @click="beginNotice(router, site, undefined, 'consent')">
            <span
              ><b>A consent notice</b><br /><span class="quiet small"
                >Asks for a choice by purpose, and keeps the proof.</span
              ></span
            >
          </el-dropdown-item>
          <el-dropdown-item @click="beginNotice(router, site, undefined, 'disclaimer')">
            <span
              ><b>A disclaimer</b><br /><span class="quiet small"
                >A statement to read, to acknowledge, or to declare.</span
              ></span
            >
          </el-dropdown-item>
          <el-dropdown-item @click="beginNotice(router, site, undefined, 'block')">
            <span
              ><b>A block</b><br /><span class="quiet small"
                >A section in the page, on as many pages as you like.</span
              ></span
            >
          </el-dropdown-item>
          <el-dropdown-item
            v-if="me?.person.role === 'administrator'"
            @click="beginNotice(router, site, undefined, 'code')"
          >
            <span><b>Code</b><br /><span class="quiet small">A few lines in the head or the body of pages.</span></span>
          </el-dropdown-item>
          <el-dropdown-item
            v-for="p in points.filter((x) => x.kind !== 'block' || x.own)"
            :key="p.key"
            @click="beginNotice(router, site, p.key)"
          >
            <span
              ><b>{{ p.name }}</b
              ><br /><span class="quiet small">{{ p.for }}</span></span
            >
          </el-dropdown-item>
          <el-dropdown-item divided @click="router.push({ name: 'library', params: { site } })"
            >See them all in the Library</el-dropdown-item
          >
        </el-dropdown-menu>
      </template>
    </el-dropdown>
  </span>
</template>

<style scoped>
.new {
  display: inline-flex;
  gap: 4px;
}
</style>
