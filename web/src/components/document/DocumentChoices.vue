<script setup lang="ts">
import { lazily } from '@/app/later'

import type { Change, Choices, NextAsk } from '@/api/client'

/** A field is fetched where there is one. */
const ChoiceEntry = lazily(() => import('./ChoiceEntry.vue'))

/** Ways to look at a result; pressing one, or typing, changes what is asked. Some open
 * another form in its place. */
defineProps<{ choices: Choices }>()
const emit = defineEmits<{ change: [change: Change]; ask: [ask: NextAsk] }>()

function press(o: Choices['options'][number]) {
  if (o.ask) emit('ask', o.ask)
  else emit('change', o.change)
}
/** A member is named by its path; an emptied one is taken out of the settings. */
function typed(member: string, text: string) {
  let change: unknown = text === '' ? null : text
  for (const part of member.split('.').reverse()) change = { [part]: change }
  emit('change', change as Change)
}
</script>

<template>
  <component :is="choices.folded ? 'details' : 'div'" class="choices" :class="{ folded: choices.folded }">
    <summary v-if="choices.folded" class="act" data-test="choices-open">{{ choices.label }}</summary>
    <span v-else class="soft">{{ choices.label }}</span>
    <div class="ways">
      <ChoiceEntry
        v-for="e in choices.entries"
        :key="e.member"
        :entry="e"
        @typed="typed(e.member, $event)"
      />
      <button
        v-for="o in choices.options"
        :key="o.label"
        type="button"
        class="act"
        :aria-pressed="o.ask ? undefined : o.chosen"
        data-test="choice"
        @click="press(o)"
      >{{ o.label }}</button>
    </div>
  </component>
</template>

<style scoped>
.choices { font-size: 14.5px; margin-bottom: 4px; }
div.choices { display: flex; gap: 2px 18px; align-items: baseline; }
div.choices > .soft { flex: none; }
.ways { display: flex; flex-wrap: wrap; gap: 2px 18px; align-items: baseline; }
.folded .ways { margin: 6px 0 8px; gap: 8px 18px; }
summary { display: inline-block; cursor: pointer; list-style: none; }
summary::after { content: ' ▾'; }
.act { font-weight: 400; color: var(--soft); padding: 1px 0; }
.act:hover { color: var(--teal); }
.act[aria-pressed='true'] { font-weight: 650; color: var(--ink); }
</style>
