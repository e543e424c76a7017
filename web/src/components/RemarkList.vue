<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'

import { api } from '@/api/client'
import { moment } from '@/app/format'
import { lazily } from '@/app/later'
import { useAttempt } from '@/composables/useAttempt'
import { useRemarks } from '@/composables/useRemarks'

import ErrorNote from './ErrorNote.vue'
import { useIsReading } from './reading'

/** What is written with is fetched when somebody writes. */
const RemarkForm = lazily(() => import('./RemarkForm.vue'))

/** What people have written beside a question or an analysis, with the answers to it. */
const props = defineProps<{ study: number; question: number; analysis?: number }>()
const { t } = useI18n()
const reading = useIsReading()
const { threads, put } = useRemarks(() => props.study)
const here = computed(() => threads.value.filter((r) => r.question === props.question && r.analysis === (props.analysis ?? 0)))
const open = computed(() => here.value.filter((r) => !r.resolved))
const settled = computed(() => here.value.filter((r) => r.resolved))
/** The remark that is being answered; 0 for a new one, null for none. */
const writing = ref<number | null>(null)
const { error, attempt } = useAttempt()
async function act(done: () => ReturnType<typeof api.writeRemark>) {
  const found = await attempt(done)
  if (found) put(found.value)
  return found !== null
}
async function write(text: string) {
  const to = writing.value ?? 0
  const remark = { question: props.question, analysis: props.analysis ?? 0, to, text }
  if (await act(() => api.writeRemark(props.study, remark))) writing.value = null
}
</script>

<template>
  <div v-if="!reading" class="remarks">
    <component
      :is="'details'"
      v-for="(list, at) in [open, settled].filter((l) => l.length)"
      :key="at"
      :open="list === open"
      data-test="remarks"
    >
      <summary v-if="list === settled" class="act">{{ t('remark.settled', { n: list.length }, list.length) }}</summary>
      <summary v-else class="visually-hidden">{{ t('remark.text') }}</summary>
      <div v-for="r in list" :key="r.id" class="thread" data-test="remark">
        <p v-for="(one, i) in [r, ...r.answers]" :key="one.id" :class="{ answer: i }">
          <b>{{ one.author }}</b> <span class="when">{{ moment(one.at) }}</span><br />{{ one.text }}
          <button v-if="one.mine"
type="button"
class="act quiet"
:aria-label="t('remark.delete_of', { name: one.author })"
@click="act(() => api.deleteRemark(study, one.id))">{{ t('remark.delete') }}</button>
        </p>
        <p v-if="r.resolved" class="when">{{ t('remark.resolved', { name: r.resolved }) }}</p>
        <RemarkForm v-if="writing === r.id" @write="write" @cancel="writing = null" />
        <p v-else class="acts-of">
          <button type="button" class="act" data-test="remark-answer" @click="writing = r.id">{{ t('remark.answer') }}</button>
          <button
            type="button"
            class="act"
            data-test="remark-resolve"
            @click="act(() => api.resolveRemark(study, r.id, !r.resolved))"
          >{{ t(r.resolved ? 'remark.open' : 'remark.resolve') }}</button>
        </p>
      </div>
    </component>
    <RemarkForm v-if="writing === 0" @write="write" @cancel="writing = null" />
    <button v-else
type="button"
class="act offered"
data-test="remark-add"
@click="writing = 0">{{ t('remark.add') }}</button>
    <ErrorNote v-if="error" :error="error" />
  </div>
</template>

<style scoped>
.remarks { font: 14px/1.4 'Source Sans 3 Variable', sans-serif; color: var(--ink); margin-top: 8px; overflow-wrap: anywhere; }
.thread { border-left: 2px solid var(--teal); padding-left: 9px; margin-bottom: 10px; white-space: pre-line; }
.thread p { margin: 0 0 4px; }
.answer { padding-left: 10px; }
.when { color: var(--soft); font-size: 12.5px; }
.acts-of { display: flex; gap: 14px; }
.act { font-size: 13px; }
.quiet { font-weight: 400; color: var(--soft); }
summary { cursor: pointer; }
summary.act { list-style: none; margin-bottom: 6px; }
@media print { .remarks { display: none; } }
</style>
