<script setup lang="ts">
// What the site's own policy has to allow, where it was read that it does not: which pages, what each directive lists
// besides, and the whole policy to copy.
import { copy } from '../../instruments/copy'
import { useSite } from '../../state/sites'

const { detail } = useSite()

/** Which pages, with the verb that follows. */
const who = (pages: number, page: string) =>
  pages === 1 ? `The page ${page} has` : `${pages} pages, ${page} among them, have`
const copyPolicy = (policy: string) =>
  copy(policy, 'Copied: the whole policy, with what was missing.', 'it stands in the list; select it there')
</script>

<template>
  <section v-if="detail?.policies.length">
    <h2>What the site’s policy still has to allow</h2>
    <div v-for="policy of detail.policies" :key="policy.policy">
      <p>
        {{ who(policy.pages, policy.page) }} a Content-Security-Policy.
        <template v-if="policy.nonce">
          Both lines need the policy’s nonce: <code>&lt;script nonce="…"&gt;</code>.
        </template>
        <template v-if="policy.add.length">Notices show there once it also lists:</template>
      </p>
      <dl v-if="policy.add.length">
        <template v-for="more of policy.add" :key="more.directive">
          <dt>
            <code>{{ more.directive }}</code>
          </dt>
          <dd>
            <code v-for="source of more.sources" :key="source">{{ source }}</code>
          </dd>
        </template>
      </dl>
      <!-- One with a nonce is made anew for each page. -->
      <el-button v-if="policy.add.length && !policy.nonce" @click="copyPolicy(policy.policy)"
        >Copy the whole policy</el-button
      >
    </div>
  </section>
</template>

<style scoped>
div + div {
  margin-top: 20px;
}
p {
  margin: 4px 0 10px;
}
dl {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: 4px 16px;
  margin: 0 0 12px;
}
dd {
  margin: 0;
}
dd code {
  display: block;
  overflow-wrap: anywhere;
}
@media (max-width: 640px) {
  dl {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
