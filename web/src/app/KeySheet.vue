<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import { useMethods } from '@/composables/useMethods'

const shown = defineModel<boolean>({ required: true })
const { t } = useI18n()
const { byName } = useMethods()
/** What is asked most brings its key along, and some do the same for other kinds of questions; the keys
 * of the rest stand in the menu of a question. */
const ofMethods = computed(() => {
  const seen = new Map<string, [string, string]>()
  for (const m of byName.value.values()) {
    const text = `ask.${m.texts}.act`
    if (m.key && !m.seldom) seen.set(`${m.key} ${t(text)}`, [m.key, text])
  }
  return [...seen.values()]
})
const keys = computed<[string, string][]>(() => [
  ['/', 'keys.find'],
  ['j', 'keys.next'],
  ['k', 'keys.previous'],
  ['l', 'keys.list'],
  ['r', 'keys.select'],
  ['R', 'keys.read'],
  ['.', 'keys.acts'],
  ...ofMethods.value,
  ['Enter', 'keys.edit'],
  ['H', 'keys.guide'],
  ['?', 'keys.help'],
])
</script>

<template>
  <v-dialog v-model="shown" max-width="460" :aria-label="t('keys.title')">
    <div class="keys">
      <h2>{{ t('keys.title') }}</h2>
      <dl>
        <template v-for="[key, text] in keys" :key="key">
          <dt><kbd>{{ key }}</kbd></dt>
          <dd>{{ t(text) }}</dd>
        </template>
      </dl>
      <button type="button" class="act" @click="shown = false">{{ t('app.close') }}</button>
    </div>
  </v-dialog>
</template>

<style scoped>
.keys {
  background: var(--sheet);
  color: var(--ink);
  padding: 22px 28px;
  border: 1px solid var(--rule);
  outline: none;
}
h2 {
  font-size: 19px;
  font-weight: 600;
  margin-bottom: 10px;
}
dl {
  display: grid;
  grid-template-columns: 70px 1fr;
  gap: 7px 0;
  margin-bottom: 14px;
}
dd {
  margin: 0;
}
kbd { font-size: 13px; padding: 0 6px; }
</style>
