<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import MenuButton from '@/components/MenuButton.vue'
import { useMethods } from '@/composables/useMethods'

import type { Act } from '@/components/menu'

/** What can be done with a question: what is asked most stands in the line, more of it comes with the
 * pointer or the focus, and the menu has all. */
const props = defineProps<{ number: number; acts: Act[] }>()
const menu = defineModel<boolean>('menu', { required: true })
const { t } = useI18n()
/** Nothing of the line is there to be pressed before all of it has its place. */
const { settled } = useMethods()
const first = computed(() => props.acts.filter((a) => a.rank === 0))
const further = computed(() => props.acts.filter((a) => a.rank === 1))
</script>

<template>
  <p class="acts" :class="{ coming: !settled }">
    <template v-for="(part, at) in [first, further]" :key="at">
      <button
        v-for="a in part"
        :key="a.key"
        type="button"
        class="act"
        :class="{ further: at > 0 }"
        :aria-expanded="a.opens ? (a.open ?? false) : undefined"
        :data-test="a.test"
        @click="a.act"
      >{{ a.title }}</button>
      <MenuButton
        v-if="at === 0"
        v-model:open="menu"
        class="act"
        data-test="more"
        :label="t('topline.acts_of', { n: number })"
        :acts="acts"
      >{{ t('topline.more') }}</MenuButton>
    </template>
  </p>
</template>

<style scoped>
.acts { margin: 4px 0 2px; gap: 6px 18px; }
.acts :deep(.act) { padding: 1px 0 2px; }
.coming { visibility: hidden; }
/* What does not fit into the line stands in the menu. */
@media (hover: hover) and (min-width: 1001px) { .acts:not(:focus-within, :has([aria-expanded='true'])) { max-height: 27px; overflow: hidden; } }
@media (hover: none), (max-width: 1000px) { .further:not([aria-expanded='true']) { display: none; } }
</style>
