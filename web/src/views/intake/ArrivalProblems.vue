<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

import FileChoice from '@/components/FileChoice.vue'

import type { IntakeProblem, Settings } from '@/api/client'

/** What keeps a file from being read, with what one press would do about it. */
const props = defineProps<{ problems: IntakeProblem[]; ragged: number; lacksFile: boolean }>()
const emit = defineEmits<{ set: [change: Partial<Settings>]; addFile: [file: File] }>()
const { t } = useI18n()
const remedies = computed(() => [...new Set(props.problems.flatMap((p) => p.remedies))])

const fileRemedies: Record<IntakeProblem['remedies'][number], Partial<Settings>> = {
  padShort: { padShort: true },
  fixNames: { fixNames: true },
  windows1252: { encoding: 'windows-1252' },
  firstIsName: { headerSaid: true },
  firstIsAnswer: { headerSaid: true, headerRow: 0 },
  lineIsNames: { headerSaid: true },
  lineIsAnswers: { headerSaid: true, headerRow: 0 },
  lastIsTotal: { lastRow: 'total' },
  lastIsRespondent: { lastRow: 'respondent' },
  blankIsZero: { blankIsZero: true },
}
const further = ([file]: File[]) => file && emit('addFile', file)
</script>

<template>
  <section class="problems" role="alert" data-test="intake-problems">
    <h2>{{ t('intake.problems') }}</h2>
    <p v-if="ragged > 1">{{ t('intake.ragged', ragged) }}</p>
    <ul>
      <li v-for="(p, i) in problems" :key="i">{{ p.text }}</li>
    </ul>
    <p class="acts">
      <button
        v-for="r in remedies"
        :key="r"
        type="button"
        class="act"
        @click="$emit('set', fileRemedies[r])"
      >{{ t(`intake.remedies.${r}`) }}</button>
      <FileChoice
        v-if="lacksFile"
        v-slot="{ open }"
        :label="t('intake.add_file')"
        test="further"
        @files="further"
      >
        <button type="button" class="act" @click="open">{{ t('intake.add_file') }}</button>
      </FileChoice>
    </p>
  </section>
</template>

<style scoped>
h2 {
  font-size: 16px;
  font-weight: 600;
  margin-bottom: 6px;
}
.problems {
  border-left: 3px solid var(--rust);
  padding: 2px 0 2px 16px;
  margin: 14px 0;
  max-width: 760px;
}
ul {
  padding-left: 18px;
  margin-bottom: 6px;
}
</style>
