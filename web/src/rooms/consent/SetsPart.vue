<script setup lang="ts">
// What do we set? The inventory with its evidence, the inspection, and what would not hold up in law.
import { computed } from 'vue'
import { mayWrite } from '../../instruments/me'
import BadVendor from './BadVendor.vue'
import { questionOf, useConsent } from './consent'
import FindingList from './FindingList.vue'
import HoldingPart from './HoldingPart.vue'
import InspectionPart from './InspectionPart.vue'
import InventoryPart from './InventoryPart.vue'

const { room } = useConsent()
const findings = computed(() => (room.value?.findings ?? []).filter((f) => questionOf(f) === 'sets'))
</script>

<template>
  <div v-if="room" class="sets">
    <InventoryPart class="part" />
    <div class="side">
      <InspectionPart class="part" />
      <HoldingPart class="part" />
      <BadVendor v-if="room.badVendor !== undefined && mayWrite" class="part" />
      <section v-if="findings.length" class="part" aria-labelledby="set-findings">
        <h2 id="set-findings">What would not hold up in law</h2>
        <FindingList :findings="findings" />
      </section>
    </div>
  </div>
</template>

<style scoped>
.sets {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(280px, 1fr);
  gap: 16px 40px;
  margin-top: 8px;
}
.part {
  padding: 10px 0 14px;
  border-top: 1px solid var(--line);
}
h2 {
  margin-bottom: 4px;
}
@media (max-width: 900px) {
  .sets {
    grid-template-columns: minmax(0, 1fr);
  }
  .side {
    order: -1;
  }
}
</style>
