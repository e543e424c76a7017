<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'

import { ApiError, api } from '@/api/client'
import ChiSquareCurve from '@/charts/ChiSquareCurve.vue'
import ErrorNote from '@/parts/ErrorNote.vue'
import { day, moment } from '@/parts/format'
import MarginNotes from '@/parts/MarginNotes.vue'
import { useCopied } from '@/parts/useCopied'

import { useDraft } from '../composables/useDraft'
import ClaimFacts from './ClaimFacts.vue'
import ClaimForm from './ClaimForm.vue'
import ContributionTable from './ContributionTable.vue'

import type { Claim, Question, Statement, Study } from '@/api/client'

const props = defineProps<{ claim: Claim; question: Question; study: Study; of: number | null; subgroup: string; ticked: boolean; tickable: boolean }>()
const emit = defineEmits<{ changed: [question: Question]; remove: []; tick: [] }>()
const { t } = useI18n()
const changing = ref(false)
const working = ref(false)
const error = shallowRef<Error | null>(null)
const { copied, copy } = useCopied()

const said = computed(() => {
  const c = props.claim
  const when = c.timing === 'changed' ? 'claim.stated_changed' : c.timing === 'before' ? 'claim.stated_before' : 'claim.stated_open'
  const parts = [t('claim.said', { n: c.number }), `“${c.statement}”`, t('claim.level', { level: c.levelText }), t(when, { date: day(c.statedAt) })]
  if (c.subgroupId === null && props.of !== null) parts.push(t('claim.about_everyone'))
  if (c.sourceDate) parts.push(t('claim.dated_in', { date: c.sourceDate }))
  return parts.join(' · ')
})
const writeUp = computed(() => {
  const r = props.claim.result
  if (!r) return ''
  return [r.sentence, r.journal, r.rows.map((row) => `${row.label}: ${row.observed}`).join(', ') + '.'].join('\n')
})

async function attempt(work: () => Promise<Question | void>) {
  error.value = null
  try {
    const after = await work()
    if (after) emit('changed', after)
    return true
  } catch (cause) {
    error.value = cause as Error
    return false
  }
}

const run = () => attempt(() => api.runClaim(props.study.id, props.claim.id, props.of))

async function save(statement: Statement) {
  if (await attempt(() => api.editClaim(props.study.id, props.claim.id, props.claim.version, statement, props.of))) {
    useDraft(props.study.id, props.question.id, props.claim.id).drop()
    changing.value = false
  }
}

const reload = () => attempt(() => api.question(props.study.id, props.question.id, props.of))
</script>

<template>
  <article class="claim" :aria-label="t('claim.said', { n: claim.number })" data-test="claim">
    <div class="beside">
      <div class="bar">
        <p class="said">{{ said }}</p>
        <ErrorNote v-if="error" :error="error" :action="error instanceof ApiError && error.isStale ? t('app.reload') : undefined" @act="reload" />
        <h3 v-if="claim.result" data-test="finding">{{ claim.result.sentence }}</h3>
        <template v-else>
          <h3 v-if="!claim.firstRunAt">{{ claim.statement }}</h3>
          <div v-if="claim.problems.length || claim.refusal" class="needs" role="status">
            <p>{{ t('claim.need_fix') }}</p>
            <p v-for="(p, i) in claim.refusal ? [claim.refusal] : claim.problems" :key="i">{{ p }}</p>
          </div>
          <v-btn v-else variant="flat" color="primary" data-test="run" @click="run">{{ t('claim.run') }}</v-btn>
        </template>
        <div v-if="claim.result" class="two">
          <div class="wide"><ContributionTable :result="claim.result" /></div>
          <ChiSquareCurve :result="claim.result" :units="study.units" />
        </div>
        <ClaimFacts v-if="claim.result" :result="claim.result" :level-text="claim.levelText" />
        <ol v-if="working && claim.result" class="working" data-test="working">
          <li v-for="(line, i) in claim.result.working" :key="i">{{ line }}</li>
        </ol>
        <p class="acts">
          <button
            v-if="claim.result"
            type="button"
            class="act"
            :aria-expanded="working"
            data-test="show-working"
            @click="working = !working"
          >{{ working ? t('claim.hide_working') : t('claim.working') }}</button>
          <button v-if="claim.result" type="button" class="act" @click="copy(writeUp)">{{ copied ? t('topline.copied') : t('claim.write_up') }}</button>
          <button
            v-if="tickable"
            type="button"
            class="act"
            :aria-pressed="ticked"
            data-test="tick"
            @click="$emit('tick')"
          >{{ ticked ? t('claim.ticked') : t('claim.tick') }}</button>
          <button type="button" class="act" :aria-expanded="changing" data-test="change-claim" @click="changing = !changing">{{ t('claim.change') }}</button>
          <button type="button" class="act" data-test="delete-claim" @click="$emit('remove')">{{ t('claim.delete') }}</button>
        </p>
        <div v-if="claim.changes.length" class="small soft">
          <p>{{ t('claim.changes') }}:</p>
          <ul>
            <li v-for="(c, i) in claim.changes" :key="i">{{ c.text }}<template v-if="c.at"> · {{ moment(c.at) }}</template><template v-if="c.at && c.afterRun"> · {{ t('claim.after_run') }}</template></li>
          </ul>
        </div>
      </div>
      <MarginNotes :notes="claim.result?.notes ?? []" />
    </div>
    <ClaimForm
      v-if="changing"
      :question="question"
      :study="study"
      :subgroup="subgroup"
      :claim="claim"
      @state="save"
      @cancel="changing = false"
    />
  </article>
</template>

<style scoped>
.bar { margin: 10px 30px 0 78px; border-left: 3px solid var(--ink); padding: 2px 0 4px 20px; }
.claim :deep(.margin) { padding-top: 12px; }
.acts { margin: 12px 0 4px; }
.said { color: var(--soft); font-size: 13.5px; margin-bottom: 3px; }
h3 { font-size: 18px; font-weight: 600; line-height: 1.35; max-width: 700px; margin-bottom: 10px; }
.two { display: grid; grid-template-columns: minmax(0, 1fr) auto; gap: 10px 28px; align-items: start; }
@media (max-width: 1180px) { .two { grid-template-columns: minmax(0, 1fr); } }
@media (max-width: 640px) { .bar { margin: 10px 14px 0; padding-left: 12px; } }
.needs { border-left: 3px double var(--ink); padding-left: 12px; margin: 8px 0; }
.working { padding-left: 26px; margin: 12px 0 10px; font-size: 14.5px; }
.working li { margin-bottom: 3px; }
ul { padding-left: 18px; }
</style>
