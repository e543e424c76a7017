<script setup lang="ts">
import { computed, nextTick, ref, useId, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { VBottomSheet, VMenu } from 'vuetify/components'

import { purposes } from './menu'

import type { Act } from './menu'

/** What can be done, in groups by what it is for, with a search by the words of the trade. On a
 * narrow screen it is a sheet from below. */
const props = defineProps<{ activator: HTMLElement; label: string; entries: Act[] }>()
const open = defineModel<boolean>({ required: true })
const { t } = useI18n()
const narrow = window.matchMedia('(max-width: 640px)').matches
const id = useId()
const typed = ref('')
const field = ref<HTMLInputElement>()
/** Words by which nothing is found. */
const idle = new Set(['a', 'an', 'and', 'the', 'of', 'or', 'in', 'to', 'with', 'for', 'by'])
const all = computed(() =>
  props.entries.map((a) => ({ ...a, line: t(`${a.texts}.for`), terms: t(`${a.texts}.terms`) })).sort((a, b) => a.rank - b.rank),
)
const found = computed(() => {
  const words = typed.value.toLowerCase().split(/\s+/).filter((w) => !idle.has(w))
  return all.value.filter((a) => words.every((word) => `${a.title} ${a.line} ${a.terms}`.toLowerCase().includes(word)))
})
const groups = computed(() =>
  purposes.map((purpose) => ({ purpose, acts: found.value.filter((a) => a.purpose === purpose) })).filter((g) => g.acts.length),
)
const inOrder = computed(() => groups.value.flatMap((g) => g.acts))
const at = ref(-1)
const active = computed(() => inOrder.value[at.value])
watch(typed, () => (at.value = typed.value.trim() && inOrder.value.length ? 0 : -1))
watch(open, (now) => {
  if (!now) return
  typed.value = ''
  at.value = -1
  void nextTick(() => setTimeout(() => field.value?.focus()))
}, { immediate: true })
const place = (a: Act) => `${id}-${a.key}`
function step(by: 1 | -1) {
  const n = inOrder.value.length
  if (!n) return
  at.value = at.value < 0 && by < 0 ? n - 1 : (at.value + by + n) % n
  void nextTick(() => document.getElementById(place(active.value!))?.scrollIntoView({ block: 'nearest' }))
}
function take(a: Act | undefined) {
  if (!a) return
  open.value = false
  a.act()
}
</script>

<template>
  <component
    :is="narrow ? VBottomSheet : VMenu"
    v-model="open"
    :activator="activator"
    :open-on-click="false"
    :close-on-content-click="false"
    :aria-label="label"
    max-height="min(640px, 86vh)"
  >
    <div class="menu-entries acts-list" data-test="act-list">
      <input
        ref="field"
        v-model="typed"
        type="text"
        role="combobox"
        aria-autocomplete="list"
        aria-expanded="true"
        autocomplete="off"
        :aria-controls="id"
        :aria-activedescendant="active ? place(active) : undefined"
        :aria-label="t('acts.find')"
        :placeholder="t('acts.find')"
        @keydown.down.prevent="step(1)"
        @keydown.up.prevent="step(-1)"
        @keydown.enter.prevent="take(active)"
        @keydown.esc.stop.prevent="open = false"
        @keydown.tab="open = false"
      />
      <p v-if="!inOrder.length" class="soft none" role="status">{{ t('acts.none') }}</p>
      <div :id="id" role="listbox" :aria-label="label">
        <div v-for="g in groups" :key="g.purpose" role="group" :aria-labelledby="`${id}-${g.purpose}`">
          <p :id="`${id}-${g.purpose}`" class="purpose">{{ t(`acts.purpose.${g.purpose}`) }}</p>
          <div
            v-for="a in g.acts"
            :id="place(a)"
            :key="a.key"
            class="entry"
            role="option"
            :class="{ active: a === active }"
            :aria-selected="a === active"
            :data-test="a.test"
            @click="take(a)"
          >
            <b>{{ a.title }}</b><kbd v-if="a.letter" :aria-label="t('acts.key', { key: a.letter })">{{ a.letter }}</kbd>
            <span class="soft">{{ a.line }}</span>
          </div>
        </div>
      </div>
    </div>
  </component>
</template>

<style scoped>
.acts-list {
  background: var(--sheet);
  color: var(--ink);
  border: 1px solid var(--rule);
  width: 470px;
  max-width: 100%;
  overflow: auto;
  padding: 10px 0;
}
input {
  display: block;
  width: calc(100% - 32px);
  margin: 0 16px 4px;
  font: 15px 'Source Sans 3 Variable', sans-serif;
  color: var(--ink);
  background: none;
  border: 0;
  border-bottom: 1px solid var(--soft);
  padding: 4px 0;
}
input:focus { outline: none; border-bottom: 2px solid var(--teal); padding-bottom: 3px; }
input::placeholder { color: var(--soft); opacity: 1; }
.none { padding: 8px 16px; }
.purpose {
  font: 600 12.5px 'Source Sans 3 Variable', sans-serif;
  letter-spacing: 0.06em;
  text-transform: uppercase;
  color: var(--soft);
  padding: 9px 16px 2px;
}
.entry { display: grid; grid-template-columns: minmax(0, 1fr) auto; gap: 0 12px; padding: 4px 16px; cursor: pointer; font-size: 14.5px; }
.entry b { font-weight: 600; }
.entry .soft { font-size: 13.5px; grid-column: 1 / -1; }
.entry:hover, .entry.active { background: var(--tealwash); }
.entry.active { box-shadow: inset 3px 0 0 var(--teal); }
kbd { font-size: 12.5px; padding: 0 6px; align-self: center; }
@media (max-width: 640px) { .acts-list { width: 100%; } .entry { padding: 8px 16px; } }
@media (forced-colors: active) { .entry.active { outline: 2px solid; outline-offset: -2px; } }
</style>
