<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { useGuide } from '@/composables/useGuide'

/** The how-tos, or those that speak of what is typed. */
const emit = defineEmits<{ chosen: [name: string] }>()
const { t } = useI18n()
const { pages, speakOf } = useGuide()
const typed = ref('')
const found = computed(() => (typed.value.trim() ? speakOf(typed.value.trim()) : pages.value))
const first = () => found.value[0] && emit('chosen', found.value[0].name)
</script>

<template>
  <input
    v-model="typed"
    type="search"
    :aria-label="t('guide.find')"
    :placeholder="t('guide.find')"
    data-test="guide-find"
    @keydown.enter="first"
  />
  <p v-if="pages.length && !found.length" class="soft" role="status">{{ t('guide.none') }}</p>
  <ol>
    <li v-for="p in found" :key="p.name"><RouterLink
      :to="`/guide/${p.name}`"
      custom
    ><a :href="`/guide/${p.name}`" @click.exact.prevent="$emit('chosen', p.name)">{{ p.title }}</a></RouterLink></li>
  </ol>
</template>

<style scoped>
input {
  width: 100%;
  box-sizing: border-box;
  font: inherit;
  color: var(--ink);
  background: none;
  border: 0;
  border-bottom: 1px solid var(--soft);
  border-radius: 0;
  padding: 5px 0;
  margin-bottom: 12px;
  appearance: none;
}
input::placeholder { color: var(--soft); opacity: 1; }
ol { list-style: none; padding: 0; }
li { padding: 5px 0; }
a { font-weight: 600; text-decoration: none; }
a:hover { text-decoration: underline; }
</style>
