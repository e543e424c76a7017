<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

import CountGrid from './CountGrid.vue'
import TwoNumbers from './TwoNumbers.vue'
import { typed } from './typed'

import type { Settings } from '@/api/client'

import FileChoice from '@/components/FileChoice.vue'

/** The ways in: files, pasted cells, counts typed by hand, two numbers. */
defineProps<{ most: string }>()
const emit = defineEmits<{ files: [files: File[], change?: Partial<Settings>] }>()
const { t } = useI18n()
const over = ref(false)
const { way, pasted, form } = typed

function dropped(event: DragEvent) {
  over.value = false
  const files = [...(event.dataTransfer?.files ?? [])]
  if (files.length) emit('files', files)
}

function take(name: string, text: string, change?: Partial<Settings>) {
  emit('files', [new File([text], name, { type: 'text/plain' })], change)
}

function usePasted() {
  if (pasted.value.trim() !== '') take(t('intake.pasted_name'), pasted.value)
}

const toggle = (to: typeof way.value) => (way.value = way.value === to ? '' : to)
</script>

<template>
  <div class="sheet">
    <div
      class="drop"
      :class="{ over, aside: way !== '' }"
      @dragover.prevent="over = true"
      @dragleave="over = false"
      @drop.prevent="dropped"
    >
      <p v-if="way === ''" class="serif big">{{ t('intake.drop') }}</p>
      <p class="acts">
        <span v-if="way === ''" class="soft">{{ t('intake.or') }}</span>
        <FileChoice
          v-slot="{ open }"
          multiple
          :label="t('intake.choose')"
          accept=".csv,.tsv,.txt,.tab,.xlsx,.ods,.zip,.json,text/csv,text/plain"
          test="file"
          @files="emit('files', $event)"
        >
          <v-btn variant="flat" color="primary" @click="open">{{ t('intake.choose') }}</v-btn>
        </FileChoice>
        <button
          type="button"
          class="act"
          :aria-expanded="way === 'paste'"
          @click="toggle('paste')"
        >{{ t('intake.paste') }}</button>
        <button
          type="button"
          class="act"
          :aria-expanded="way === 'grid'"
          data-test="type-counts"
          @click="toggle('grid')"
        >{{ t('intake.type_counts') }}</button>
        <button
          type="button"
          class="act"
          :aria-expanded="way === 'two'"
          data-test="two-numbers"
          @click="toggle('two')"
        >{{ t('intake.two_numbers') }}</button>
      </p>
      <p v-if="way === ''" class="soft small">{{ t('intake.formats', { most }) }}</p>
    </div>
    <form v-if="way === 'paste'" class="paste" @submit.prevent="usePasted">
      <v-textarea
        v-model="pasted"
        :label="t('intake.paste_label')"
        rows="8"
        autofocus
        spellcheck="false"
        data-test="paste"
      />
      <v-btn
        type="submit"
        variant="flat"
        color="primary"
        :disabled="pasted.trim() === ''"
        data-test="paste-read"
      >{{ t('intake.paste_read') }}</v-btn>
    </form>
    <p v-if="way === 'grid' && form === ''" class="sentence" data-test="ask-form">
      {{ t('grid.ask') }}
      <button type="button" class="act" data-test="form-list" @click="form = 'list'">{{ t('grid.list') }}</button>
      <button type="button" class="act" data-test="form-crossing" @click="form = 'crossing'">{{ t('grid.crossing') }}</button>
    </p>
    <CountGrid
      v-if="way === 'grid' && form !== ''"
      :key="form"
      :form="form"
      @other="form = form === 'list' ? 'crossing' : 'list'"
      @read="(text, change) => take(t('intake.typed_name'), text, change)"
    />
    <TwoNumbers v-if="way === 'two'" @read="(text, change) => take(t('intake.typed_name'), text, change)" />
  </div>
</template>

<style scoped>
.drop {
  max-width: 820px;
  border: 1.5px dashed var(--rule);
  padding: 40px 40px 30px;
}
.drop.aside {
  border-width: 0 0 1px;
  border-style: solid;
  padding: 0;
}
.drop.aside .acts {
  margin-bottom: 12px;
}
.sentence {
  font:
    500 18px/2.1 'Source Serif 4 Variable',
    serif;
  margin-top: 14px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  align-items: baseline;
}
.drop.over {
  border-color: var(--teal);
  background: var(--tealwash);
}
.big {
  font-size: 25px;
  margin-bottom: 12px;
}
.acts {
  align-items: center;
  margin-bottom: 20px;
}
.paste {
  max-width: 820px;
  margin-top: 22px;
  display: grid;
  gap: 12px;
  justify-items: start;
}
.paste :deep(.v-textarea) {
  width: 100%;
}
.paste :deep(textarea) {
  font-family: ui-monospace, monospace;
  font-size: 14px;
}
</style>
