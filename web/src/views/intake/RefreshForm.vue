<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'

import { count } from '@/app/format'
import SentenceBlank from '@/components/SentenceBlank.vue'
import ChoiceMenu from '@/components/ChoiceMenu.vue'

import type { Fit, Refresh } from '@/api/client'

/** A later file: how it fits the study, and whether it replaces or adds. */
const emit = defineEmits<{ look: [hear: (fit: Fit) => void]; refresh: [body: Omit<Refresh, 'arrivalId' | 'settings' | 'dry'>] }>()
const { t } = useI18n()
const fit = shallowRef<Fit | null>(null)
const add = ref(false)
const wave = ref('')
const waveBefore = ref('')
const waveQuestion = ref(t('intake.wave_name'))
const ways = computed(() => [false, true].map((value) => ({ value, title: t(value ? 'intake.later_add' : 'intake.later_replace') })))
type Match = NonNullable<Refresh['matches']>[string]
const matches = ref<Record<string, Match>>({})
const answers = computed(() => (['same', 'apart', 'out'] as const).map((value) => ({ value, title: t(`intake.match.${value}`) })))
const odd = computed(() => (fit.value?.matched ?? []).filter((m) => m.newCodes.length > 0 || m.unreadable || m.wording || m.doubtful))
const mostCodes = 8
onMounted(() => emit('look', (f) => (fit.value = f)))
</script>

<template>
  <form v-if="fit" class="later" data-test="fit" @submit.prevent="$emit('refresh', { add, waveQuestion, wave, waveBefore, matches })">
    <h2>{{ t('intake.fits') }}</h2>
    <p>{{ t('intake.fits_matched', { n: count(fit.matched.length), rows: t('intake.rows_so_far',
      { n: count(fit.rows) }, fit.rows) }, fit.matched.length) }}</p>
    <ul>
      <li
        v-for="m in odd"
        :key="m.name"
      >
        <b>{{ m.name }}</b>: <template v-if="m.unreadable">
          {{ t('intake.fits_unreadable') }}
        </template>
        <template v-else-if="m.newCodes.length">
          {{ t('intake.fits_codes', m.newCodes.length) }} {{ m.newCodes.slice(0, mostCodes).map((c) => `“${c}”`).join(', ') }}<template
            v-if="m.newCodes.length > mostCodes"
          >
            …
          </template>
        </template>
        <template v-if="m.wording">
          {{ t('intake.fits_wording', { wording: m.wording }) }}
        </template>
        <template v-for="r in m.relabelled.slice(0, mostCodes)" :key="r.code">
          {{ t('intake.fits_relabelled', r) }};
        </template>
        <div v-if="m.doubtful" class="doubt">
          {{ t('intake.fits_doubt') }} <ChoiceMenu
            :model-value="matches[m.name] ?? ''"
            :items="answers"
            :label="t('intake.match.label', { name: m.name })"
            :placeholder="t('intake.match.which')"
            small
            :test="`match-${m.name}`"
            @update:model-value="(is) => (matches = { ...matches, [m.name]: is as Match })"
          />.
        </div>
      </li>
      <li v-if="fit.lacking.length">{{ t('intake.fits_lacking', { list: fit.lacking.join(', ') }) }}</li>
      <li v-if="fit.further.length">{{ t('intake.fits_further', { list: fit.further.join(', ') }) }}</li>
    </ul>
    <p class="sentence">
      {{ t('intake.later_line') }} <ChoiceMenu
        v-model="add"
        :items="ways"
        :label="t('intake.later_line')"
        test="way"
      />{{ t('intake.wave_line') }}
      <SentenceBlank
        v-model="wave"
        :label="t('intake.wave_hint')"
        :placeholder="t('intake.wave_hint')"
        :maxlength="120"
        test="wave"
      /><template v-if="wave.trim() !== ''"> {{ t('intake.wave_in') }} <SentenceBlank
        v-model="waveQuestion"
        :label="t('intake.wave_in')"
        :placeholder="t('intake.wave_name')"
        :maxlength="60"
      /><template v-if="add">{{ t('intake.wave_before') }} <SentenceBlank
        v-model="waveBefore"
        :label="t('intake.wave_before_hint')"
        :placeholder="t('intake.wave_before_hint')"
        :maxlength="120"
        test="wave-before"
      /></template></template>.
    </p>
    <v-btn
      type="submit"
      variant="flat"
      color="primary"
      size="large"
      :disabled="fit.matched.length === 0"
      data-test="refresh"
    >{{ add ? t('intake.later_do_add') : t('intake.later_do_replace') }}</v-btn>
  </form>
</template>

<style scoped>
.later { margin: 10px 0; }
h2 { font-size: 16px; font-weight: 600; margin-bottom: 6px; }
.doubt { font-weight: 500; }
ul { padding-left: 18px; margin: 6px 0; max-width: 760px; overflow-wrap: anywhere; }
.sentence { font: 500 18px/2.1 'Source Serif 4 Variable', serif; }
</style>
