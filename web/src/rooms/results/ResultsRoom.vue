<script setup lang="ts">
// What came of it? What visitors filled in is here.
import { maySeeContacts } from '../../instruments/me'
import ContactsPart from './ContactsPart.vue'
</script>

<template>
  <div class="results">
    <h1>Results</h1>
    <ContactsPart v-if="maySeeContacts" />
    <p v-else>
      Contacts, which are what visitors filled in, are seen by administrators and by editors who were given the right.
      Ask an administrator: <em>Site, People</em>.
    </p>
  </div>
</template>
