<script setup lang="ts">
// What came of it? What was seen and done of the notices, and what visitors filled in.
import { maySeeContacts } from '../../instruments/me'
import ContactsPart from './ContactsPart.vue'
import NoticesPart from './NoticesPart.vue'
</script>

<template>
  <div class="results">
    <h1>Results</h1>
    <NoticesPart />
    <ContactsPart v-if="maySeeContacts" />
    <p v-else>
      Contacts, which are what visitors filled in, are seen by administrators and by editors who were given the right.
      Ask an administrator: <em>Site, People</em>.
    </p>
  </div>
</template>
