// Who is signed in, and what they may do. The server decides; here it only
// keeps what would be refused out of the way.
import { computed, ref } from 'vue'
import type { Me } from '../api/client'

export const me = ref<Me>()
/** May write and publish notices. */
export const mayWrite = computed(() => !!me.value && me.value.person.role !== 'viewer')
/** May set up sites and say who works here. */
export const mayManage = computed(() => me.value?.person.role === 'administrator')
/** What visitors filled in is for administrators, and for editors who were given the right. */
export const maySeeContacts = computed(
  () => mayManage.value || (me.value?.person.role === 'editor' && !!me.value.person.contacts),
)
