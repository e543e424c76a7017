<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'

import { questionHash } from '@/app/questionHash'

import type { Outlined } from '@/api/client'

/** The questions of the study by section, to be searched and gone to; the column folds away. */
const props = defineProps<{ questions: Outlined[] }>()
const emit = defineEmits<{ close: []; go: [hash: string] }>()
const { t } = useI18n()
const typed = ref('')
const field = useTemplateRef<{ focus: () => void }>('field')
onMounted(() => field.value?.focus())

const found = computed(() => {
  const words = typed.value.toLowerCase().split(/\s+/)
  return props.questions.filter((q) => {
    const text = `${q.number} ${q.wording} ${q.name} ${q.short} ${q.section}`.toLowerCase()
    return words.every((word) => text.includes(word))
  })
})
const sections = computed(() => {
  const out: { name: string; questions: Outlined[] }[] = []
  for (const q of found.value) {
    if (out.at(-1)?.name !== q.section) out.push({ name: q.section, questions: [] })
    out.at(-1)?.questions.push(q)
  }
  return out
})
</script>

<template>
  <nav class="list" :aria-label="t('topline.list')" data-test="question-list" @keydown.esc="emit('close')">
    <p class="top">
      <v-text-field
        ref="field"
        v-model="typed"
        :label="t('topline.list_find')"
        data-test="list-find"
        @keydown.enter="found[0] && emit('go', questionHash(found[0]))"
      />
      <button type="button" class="act" data-test="list-close" @click="emit('close')">{{ t('topline.list_close') }}</button>
    </p>
    <p v-if="!found.length" class="soft">{{ t('app.nothing_found') }}</p>
    <template v-for="(s, i) in sections" :key="i">
      <h2>{{ s.name || t('topline.no_section') }}</h2>
      <ol>
        <li v-for="q in s.questions" :key="q.id">
          <a :href="questionHash(q)" @click.prevent="emit('go', questionHash(q))">
            <span class="soft">{{ q.number }}</span> {{ q.short || q.wording }}
          </a>
        </li>
      </ol>
    </template>
  </nav>
</template>

<style scoped>
.list {
  position: fixed;
  z-index: 4;
  top: 0;
  bottom: 0;
  width: min(320px, calc(100vw - 40px));
  padding: 66px 18px 20px 24px;
  overflow-y: auto;
  background: var(--sheet);
  border-right: 1px solid var(--rule);
}
.top { display: flex; gap: 14px; align-items: baseline; margin-bottom: 8px; }
h2 {
  font: 600 12.5px 'Source Sans 3 Variable', sans-serif;
  letter-spacing: 0.08em;
  text-transform: uppercase;
  color: var(--soft);
  margin: 12px 0 2px;
}
ol { list-style: none; padding: 0; margin: 0; }
a { display: block; padding: 4px 0; color: var(--ink); text-decoration: none; line-height: 1.3; font-size: 14.5px; }
a:hover { color: var(--teal); text-decoration: underline; }
</style>
